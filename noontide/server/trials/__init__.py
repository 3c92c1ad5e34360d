"""Studies of a scheme, kept with its project: many designs at once, their runs, and what is made of them."""
