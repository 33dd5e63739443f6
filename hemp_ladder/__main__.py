"""`python -m hemp_ladder`: the command line, with the kernel importing beside it from the first moment."""

if __name__ == "__main__":
    from hemp_ladder.core.memory import collect_seldom
    from hemp_ladder.work.children import start_early

    start_early()
    collect_seldom()
    from hemp_ladder.cli import run

    run()
