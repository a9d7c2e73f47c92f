"""The till: what a bank statement tells, for which cases it is, and a day that has to agree."""
