package migrations

// For the tests, which live outside since the server's package imports this one.
var (
	UpFrom = up
	Files  = files
)
