"""What is exchanged with others: tables of regions, pixel map drawings, templates for content."""
