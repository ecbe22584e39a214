"""What is fast, and how we know: ratios against something measured in the same run."""
