"""From a scene to display lists, and from those to pixels."""
