"""The panels round the bench; each shows the model and sends wishes, none computes."""
