"""The practice, its accounts, the people who sign in and what each may do, and the one clock."""
