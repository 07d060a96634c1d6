"""What can be wrong with a clip file, said in a sentence the person who sent it can act on."""


class FootageError(ValueError):
    """A clip that cannot be analysed. `code` is stable for programs, the message is for people."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code
        self.message = message
