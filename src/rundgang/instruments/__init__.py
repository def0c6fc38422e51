"""What the plant is told from outside: stand-ins that ship with the application, and say that they are simulated."""
