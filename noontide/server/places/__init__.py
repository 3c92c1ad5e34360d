"""Places: by name, by coordinates, and the time zone of a point; all from data that ships with the application."""
