"""A photograph of a top: laid flat, its patches found by touch, their outlines mended."""
