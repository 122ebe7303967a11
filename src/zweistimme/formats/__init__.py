"""Text formats in and out: captions and scripts."""
