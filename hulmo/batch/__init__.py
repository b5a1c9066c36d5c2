"""Many projects at once: jobs with variables and dependencies, done side by side."""
