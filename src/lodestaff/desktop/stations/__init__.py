"""One package per station of the job."""
