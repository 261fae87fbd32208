"""The desk: Flask over the open show. One module for each resource; nothing of the job is computed here."""
