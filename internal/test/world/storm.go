package world

import "os"

// Storm is how much of something a test does: usually a little, and as much as a storm takes where STORMS is set, as `make
// storms` sets it.
func Storm[T any](usual, storm T) T {
	if os.Getenv("STORMS") != "" {
		return storm
	}
	return usual
}
