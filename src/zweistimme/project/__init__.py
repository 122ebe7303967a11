"""What a dubbing project is: frozen data, edits as pure functions, and facts derived from both."""
