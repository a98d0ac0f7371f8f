"""The computation: arrays in, arrays out. Imports nothing of the rest of the application."""
