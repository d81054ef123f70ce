"""Simulated field: a camera, a position, technicians at work. They ship with the application
in the place of outside devices, and know nothing the real ones would not."""
