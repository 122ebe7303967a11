"""The Fit page: all lines of a version at once, who needs somebody, and the limits of the plan."""
