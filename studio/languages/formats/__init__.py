"""How Django writes figures in templates: as the code does, in every language, since drawings and scripts
read them. What people read goes through filters that know the language."""
