package world

import "os"

// Storm is how much of something a test does: usually a little, and as much as a storm takes where STORMS is set, as `make
// storms` sets it.
func Storm(usual, storm int) int { return StormOf(usual, storm) }

// StormOf is Storm for whatever is different in a storm.
func StormOf[T any](usual, storm T) T {
	if os.Getenv("STORMS") != "" {
		return storm
	}
	return usual
}
