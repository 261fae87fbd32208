"""The one family of errors that core raises. The message is what the user reads: what, where, what to do."""


class JobError(ValueError):
    """Something asked for cannot be done; nothing was changed."""

    def __init__(self, message: str, field: str | None = None) -> None:
        super().__init__(message)
        self.field = field
        """The name of the argument or field at fault, where one is."""
