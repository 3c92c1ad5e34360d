"""Weather years: stored once, by content; from files and from the weather service."""
