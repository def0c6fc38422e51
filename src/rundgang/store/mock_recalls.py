"""Mock recalls: what was asked, when the stop-watch began, and what was found. It measures real time."""

from datetime import datetime
from uuid import UUID

from sqlalchemy.dialects.postgresql import insert
from sqlmodel import col, select

from rundgang.core.errors import UnknownItemError
from rundgang.core.floor.mock_recall import RecallAnswer, RecallJudgement, Task
from rundgang.core.model import Model
from rundgang.store.lot_tables import MockRecall, MockRecallAnswer
from rundgang.store.rows import Rows, key, written


class Answered(Model):
    """What somebody has found, what of it was right then, and in how long, s."""

    answer: RecallAnswer
    judgement: RecallJudgement
    seconds: float


class StoredMockRecall(Model):
    """A mock recall; not answered yet where `answered` is None."""

    number: int
    begun_at: datetime
    task: Task
    author: str
    answered: Answered | None


class MockRecalls(Rows):
    """All there were."""

    def begin(self, uuid: UUID, task: Task, author: str) -> int:
        """Start the stop-watch, in the open transaction; its number. Sent twice, it runs once."""
        row = {"uuid": uuid, "lot_id": task.bag, "item": task.item, "author": author}
        self.session.connection().execute(
            insert(MockRecall).values(row).on_conflict_do_nothing(index_elements=["uuid"])
        )
        return key(self.session.exec(select(MockRecall.id).where(MockRecall.uuid == uuid)).one())

    def answer(self, number: int, answer: RecallAnswer, judgement: RecallJudgement) -> None:
        """Stop it, in the open transaction; the first answer counts."""
        row = {
            "recall_id": number, "answer": answer.model_dump(mode="json"),
            "judgement": judgement.model_dump(mode="json"),
        }  # fmt: skip
        self.session.connection().execute(
            insert(MockRecallAnswer).values(row).on_conflict_do_nothing(index_elements=["recall_id"])
        )

    def one(self, number: int) -> StoredMockRecall:
        """A mock recall; UnknownItemError where there is none of that number."""
        row = self.session.get(MockRecall, number)
        if row is None:
            raise UnknownItemError("mock recall", str(number))
        return _stored(row, self._answers([number]).get(number))

    def newest(self, most: int) -> tuple[StoredMockRecall, ...]:
        """So many, the newest first."""
        rows = self.session.exec(select(MockRecall).order_by(col(MockRecall.id).desc()).limit(most)).all()
        answers = self._answers([key(row.id) for row in rows])
        return tuple(_stored(row, answers.get(key(row.id))) for row in rows)

    def _answers(self, numbers: list[int]) -> dict[int, MockRecallAnswer]:
        rows = self.session.exec(select(MockRecallAnswer).where(col(MockRecallAnswer.recall_id).in_(numbers)))
        return {row.recall_id: row for row in rows}


def _stored(row: MockRecall, found: MockRecallAnswer | None) -> StoredMockRecall:
    begun = written(row.created_at)
    answered = found and Answered(
        answer=RecallAnswer.model_validate(found.answer),
        judgement=RecallJudgement.model_validate(found.judgement),
        seconds=(written(found.created_at) - begun).total_seconds(),
    )
    task = Task(bag=row.lot_id, item=row.item)
    return StoredMockRecall(number=key(row.id), begun_at=begun, task=task, author=row.author, answered=answered)
