"""The kinds of focusing aid: one module each, and the list of them in ``registry``."""
