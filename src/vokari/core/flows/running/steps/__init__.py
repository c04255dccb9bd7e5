"""The kinds of step as they run, a module each; `running.kinds` gathers them."""
