"""What runs on a technician's device: the rules of a job, by the files of the core, and plain data for them.

Needs the standard library and the core alone, so that it also runs in a browser.
"""
