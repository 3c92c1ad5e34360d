"""What is bought, what it costs, and the cash of the years."""
