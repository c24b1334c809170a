"""The site served to browsers, with what each of them fetches."""
