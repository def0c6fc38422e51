"""What is kept: PostgreSQL tables, their migrations, and the reading and writing of core models.

Every row is written once and never changed: orders, plans and master data are numbered versions. The
application's database role may select and insert, and nothing else.
"""
