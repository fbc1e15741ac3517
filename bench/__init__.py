"""The benchmark table: ratios within one run, never a verdict in the tests."""
