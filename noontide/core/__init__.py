"""The computation: pure functions of arrays; no interface, no network, no files but the readers' own."""

# The stages take and free arrays of 70 kB and more by the thousand. The C library of Linux (glibc) gives freed memory
# back to the system beyond twice the largest block it has ever taken back, and pays a page fault for each 4 kB taken again.
# One block of 31 MB, taken and freed untouched, raises that mark: it costs microseconds and saves a quarter of the
# time of many sub-arrays. Elsewhere it does nothing.
bytearray(31 * 1024 * 1024)
