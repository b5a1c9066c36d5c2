"""python -m hulmo: the same as the command `hulmo`."""

from hulmo.cli import run

if __name__ == "__main__":
    run()
