"""Numbers have a point in every language, as they are typed, and read by scripts."""

DECIMAL_SEPARATOR, THOUSAND_SEPARATOR, NUMBER_GROUPING = ".", "", 0
