"""Equipment and prices: the person's shelf, what fits the job, and the data sheet as it is typed."""
