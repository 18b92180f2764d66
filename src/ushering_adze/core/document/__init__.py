"""What every value of the show is made of: the base of its models, faults in words, numbers as they are typed."""
