"""Readers of formats that are large and seldom. They run in a process of their own (`tray_core.apart`)."""
