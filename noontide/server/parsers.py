"""What the API reads: JSON and merge patches, without the numbers that JSON does not have and without depths that no design has."""

from rest_framework import parsers
from rest_framework.exceptions import ParseError

from noontide.core.design.size import DesignError, check_size


class JSONParser(parsers.JSONParser):
    strict = True

    def parse(self, stream, media_type=None, parser_context=None):
        """The body, checked for its size before anything is made of it."""
        try:
            body = super().parse(stream, media_type, parser_context)
            check_size(body)
        except RecursionError:
            raise ParseError("The JSON is nested too deeply.") from None
        except DesignError as error:
            raise ParseError(str(error)) from None
        return body


class MergePatchParser(JSONParser):
    """RFC 7396."""

    media_type = "application/merge-patch+json"
