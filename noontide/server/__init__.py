"""The web application: projects, schemes, parts, weather and jobs behind an HTTP API."""
