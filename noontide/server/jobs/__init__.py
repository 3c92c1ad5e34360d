"""Long work, kept as rows: its state, its progress and its result."""
