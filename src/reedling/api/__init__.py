"""The web API: one router per verb of the loop. No rule, no SQL, no arithmetic."""
