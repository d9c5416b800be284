"""What a query can fail with."""


class NotFoundError(LookupError):
    """There is no such record; it may have been deleted."""

    def __init__(self, kind: str, id: int) -> None:
        super().__init__(f"There is no {kind} number {id}. It may have been deleted: look under Undo in the Kit room.")
