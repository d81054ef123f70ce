"""The demo: the Wythmarsh Level, a made-up drainage commission, as a library pack and a register."""
