"""One module per command, exactly as the contract says."""
