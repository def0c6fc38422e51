"""The demo plant: a fictional bakery in a fictional town, every name and figure made up."""
