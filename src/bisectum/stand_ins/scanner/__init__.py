"""The stand-in scanner: a flat bed with originals on it, seen at any resolution."""
