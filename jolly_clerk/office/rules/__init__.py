"""The editions that are in force, and past cases under another one."""
