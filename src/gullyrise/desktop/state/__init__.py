"""What features share of the job that is open: the document, what is selected and seen, what was measured, work under way."""
