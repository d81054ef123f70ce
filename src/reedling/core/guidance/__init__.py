"""What an engineer writes: incident types, work plans, steps, and their revisions.

Standard library only. The dataclasses here are the one definition of an authored value: the
store, the library files, the API and the checks all use them.
"""

__all__ = [
    "catalogue",
    "catalogue_soundness",
    "comparing",
    "decision_tables",
    "differences",
    "documents",
    "editing",
    "facts",
    "finish_rules",
    "incident_type_soundness",
    "incident_types",
    "likeness",
    "phases",
    "plans",
    "question_editing",
    "questions",
    "references",
    "reuse",
    "revisions",
    "skills",
    "soundness",
    "written_guides",
]
