"""What is kept, who may see it, what runs when."""
