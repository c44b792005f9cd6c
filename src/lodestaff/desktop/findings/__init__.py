"""All findings of the job on one page."""
