"""The panel on the right: the picture with captions, and everything about the selected line."""
