"""The look book as files: one page that opens anywhere (`page`), a PDF (`pdf`), and what readers send back (`sent`)."""
