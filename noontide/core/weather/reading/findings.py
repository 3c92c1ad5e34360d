"""What was understood of a file, each with how sure it is and why."""

from noontide.core.weather.reading.model import Finding, Reading, Sureness


class Findings:
    """Writes down what was understood."""

    def __init__(self, reading: Reading):
        self._reading = reading

    def __call__(self, subject: str, value: str, reason: str, sureness: Sureness) -> None:
        self._reading.findings = [f for f in self._reading.findings if f.subject != subject]
        self._reading.findings.append(Finding(subject=subject, value=value, reason=reason, sureness=sureness))


def sureness_of(reading: Reading) -> dict[str, Sureness]:
    """Of every subject that has been found."""
    return {finding.subject: finding.sureness for finding in reading.findings}
