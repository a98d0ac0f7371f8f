"""Members as machines work them: straight pieces of stock, each in a frame of its own."""
