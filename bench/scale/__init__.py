"""The measures at the size of a large agency: `script/bench --scale`."""
