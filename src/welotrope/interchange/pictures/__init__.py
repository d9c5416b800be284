"""Picture files: what they show and what was written into them, read in processes of their own."""
