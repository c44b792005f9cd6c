"""The window: one store, a shell, a package per station, a theme. Widgets never compute."""
