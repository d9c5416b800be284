"""The pure core: rules and computation for placing focus, with no I/O.

Lengths are millimetres, ring positions degrees from infinity, stops dimensionless f-numbers,
times seconds, unless a name says otherwise (see ``docs/conventions.md``).
"""
