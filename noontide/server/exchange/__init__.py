"""Exchange: projects that travel, and views of a revision for others."""
