"""Pictures and video as bytes: probe, decode, encode."""
