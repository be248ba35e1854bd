"""Parts of Qt's kind, which know nothing of the job."""
