"""The web API: parse, call, answer. One router a resource; the rules of the job are in the core."""
