"""Every figure of a design, said once: title, equation, inputs, value."""
