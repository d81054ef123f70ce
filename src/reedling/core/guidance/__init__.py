"""What an engineer writes: incident types, work plans, steps, and their revisions.

Standard library only. The dataclasses here are the one definition of an authored value: the
store, the library files, the API and the checks all use them.
"""
