"""The scale: its line protocol, a serial line or TCP, a simulated one."""
