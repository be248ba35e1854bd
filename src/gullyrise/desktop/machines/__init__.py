"""The machine library's sheet: its list, the form of one machine, its drawing."""
