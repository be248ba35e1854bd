"""What is said here."""

ABOUT = "About Gullyrise"
WHAT_IT_DOES = "Judges part files for the machine that will make them, with numbers, places and pictures."
LICENCES = (
    "Free software under the GNU General Public License, version 3 or later. "
    "The typeface is Public Sans, under the SIL Open Font License 1.1."
)
