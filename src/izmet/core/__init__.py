"""The rules of retiming, free of interface, storage and network."""
