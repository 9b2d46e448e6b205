"""Made-up cases: what a program must stand that reads texts from anywhere."""
