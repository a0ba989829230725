"""From a scene to files: drawing spread over processes, encoding beside it."""
