"""The computation: pure functions of arrays; no interface, no network, no files but the readers' own."""
