"""What rain does to a surface of any shape: where water runs, what it carries off and lays down."""
