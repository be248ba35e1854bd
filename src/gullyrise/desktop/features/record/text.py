"""What is said here, and what steps are called."""

NOTE_TITLE = "A note for the record"
SAVE_PICTURE = "Save a picture of the view"
PICTURES_PNG = "Pictures (*.png)"
NOTE = "Note"
PICTURE_WRITTEN = "The picture is {} in {}."
COULD_NOT_BE_WRITTEN = "{} could not be written in {}; choose another folder."
