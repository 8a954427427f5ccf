"""The kinds of line of a letter: every module of this folder that holds a `LetterLine` with a `kind` of its own."""
