"""Files to samples and pictures, and back."""
