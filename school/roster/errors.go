package roster

import "errors"

// Errors that callers tell apart.
var (
	ErrNameTaken     = errors.New("somebody in the class has this name, or one that looks the same")
	ErrLoginTaken    = errors.New("somebody signs in with this name already")
	ErrHasPassphrase = errors.New("the student has a passphrase already")
	ErrNotHere       = errors.New("the student has left the class")
	ErrSetUp         = errors.New("the server has been set up already")
	ErrOwner         = errors.New("the owner of a class stays its owner")
	ErrLastKeeper    = errors.New("somebody must keep the server")
	ErrShut          = errors.New("this class is closed to new students")
	ErrCrowded       = errors.New("too many have joined this class in a short time")
	ErrWaits         = errors.New("this student waits to be let in")
	errCodeTaken     = errors.New("another class has this joining code")
)
