"""What screens read: one module for each thing they are about. Nothing is changed here."""
