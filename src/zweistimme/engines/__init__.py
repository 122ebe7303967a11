"""Engines that recognise, translate and speak: what they are asked, what they answer, and where they are found."""
