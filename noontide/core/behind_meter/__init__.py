"""What a year behind the meter comes to: battery, place without a grid, sizes beside one another, pictures of days."""
