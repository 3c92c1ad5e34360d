"""Users. One local user without a login is there by default."""
