"""All that follows from an edit, and what a change did to it."""
