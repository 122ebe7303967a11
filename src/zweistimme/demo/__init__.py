"""The demo programme, *The Tide Clock of Varnholm*: its script, and the code that makes its sound and picture."""
