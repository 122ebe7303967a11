"""The Score: time runs downwards, the original on the left, the dub on the right, ribbons between them."""
