"""How people come in by themselves: forms, words texted or written in, leads from other systems, their own preferences."""
