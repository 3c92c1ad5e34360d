"""What can be done to a design that is more than setting a value: pure functions from a design and arguments to a merge patch."""
