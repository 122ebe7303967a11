"""The project on disk: rows, history, clips, and the open Document."""
