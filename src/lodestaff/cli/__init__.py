"""The command line: a public interface, used by scripts. Thin; no calculations."""
