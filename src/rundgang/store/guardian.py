"""A guardian: it waits at its input, which its parent holds open, and runs a command when that ends.

So what a parent has started ends with it, however it ends: one that is killed can stop nothing any more. It is run as a
file by itself and needs nothing of Rundgang. Whatever it was given to hold, a lock for instance, it holds until then.
"""

import subprocess
import sys


def main() -> int:
    """Wait, and run a command: the arguments are the account that runs it, empty for one's own, and the command."""
    account, *command = sys.argv[1:]
    sys.stdin.buffer.read()
    who = account or None
    others: list[str] | None = [] if account else None
    done = subprocess.run(command, check=False, user=who, group=who, extra_groups=others)  # noqa: S603  (the parent's)
    return done.returncode


if __name__ == "__main__":
    sys.exit(main())
