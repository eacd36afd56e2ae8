"""What is read on pages and papers, in the language of a studio.

Templates and code are written in English, once, and carry no marks for translation. Their texts are the
messages of gettext catalogues: *pages* (`pages.py`: found in templates, put in as a template is loaded),
*words* (`words.py`: found in code, put in where a sentence is shown, `telling.py`) and *scripts*.
`gathering.py` writes the catalogues' messages anew; `python -m studio.languages` does it and compiles them.
"""
