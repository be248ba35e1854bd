"""Parts and jobs in and out: opening, saving, what is kept against loss."""
