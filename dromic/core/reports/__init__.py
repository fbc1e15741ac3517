"""What is told of a plan: words, sums and counts, plans side by side, the data of the chart and of the neck."""
