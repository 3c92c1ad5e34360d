"""What the API reads: JSON and merge patches, without the numbers that JSON does not have."""

from rest_framework import parsers


class JSONParser(parsers.JSONParser):
    strict = True


class MergePatchParser(JSONParser):
    """RFC 7396."""

    media_type = "application/merge-patch+json"
