"""Thin-lens imaging, depth of field, blur, diffraction and what counts as sharp."""
