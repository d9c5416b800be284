"""Forms: raw text in, values or errors by field out."""
