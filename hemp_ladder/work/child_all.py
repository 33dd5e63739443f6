"""What the fork server of a worker imports: all that any job needs, once, so that no child has to."""

from hemp_ladder.work import child_jobs

child_jobs.at_leisure()
