"""Speed, as ratios measured in one run."""
