"""Evidence views: how a finding, a measurement or a dimension shows itself, from geometry alone."""
