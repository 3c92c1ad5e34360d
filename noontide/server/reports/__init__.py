"""Reports: editions of one's own, and the sheets of a scheme's revision."""
