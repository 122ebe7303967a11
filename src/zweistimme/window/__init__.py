"""The window, Qt 6 Widgets: the only place that knows Qt."""
