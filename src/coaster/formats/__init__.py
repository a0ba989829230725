"""Files in and out: SVG paths, CSV samples, scene files."""
