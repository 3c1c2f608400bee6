"""Work on many pictures at once: what is to be done, who does it, and how far it is."""
