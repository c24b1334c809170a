"""What a preview serves: to a developer, or to a browser that looks at pages."""
