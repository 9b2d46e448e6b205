"""What the inputs of a command name: files and folders, here or elsewhere."""
