"""Pictures in memory: what they are, how they are read, how their colors are converted."""
