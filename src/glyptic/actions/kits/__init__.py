"""Kits: laid on plates and on files, kept from plates, what they find looked at."""
