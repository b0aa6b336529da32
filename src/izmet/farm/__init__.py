"""Parts of a film, made on other machines. See the folder's README."""
