"""Projects and their schemes, each with all its revisions."""
