"""What is wrong with the image markup of any page: rules, and where each is broken."""
