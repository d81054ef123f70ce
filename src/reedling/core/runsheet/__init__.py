"""The frozen runsheet of an order, and how a job goes through it. Standard library only."""
