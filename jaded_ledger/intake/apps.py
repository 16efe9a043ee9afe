from django.apps import AppConfig


class IntakeConfig(AppConfig):
    """Files in: read, checked row by row, and recorded with their history."""

    name = "jaded_ledger.intake"

    def ready(self) -> None:
        from jaded_ledger.intake.uploads import TAKE_IN, under_way
        from jaded_ledger.records import jobs

        jobs.register(jobs.Waiting(TAKE_IN, "upload_id", under_way))
