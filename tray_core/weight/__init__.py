"""Weight: how many bytes a look costs. A perceptual score, and the search for the quality that fits."""
