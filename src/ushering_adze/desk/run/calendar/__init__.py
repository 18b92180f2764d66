"""The calendar in Run: days, weeks and months, and the event that is selected."""
