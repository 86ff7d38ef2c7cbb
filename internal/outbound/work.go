package outbound

import (
	"time"

	"lanternrow/internal/core/forecast"

	"github.com/shopspring/decimal"
)

// Left is the picking that is left of orders, as it would be walked.
type Left struct {
	// Rounds are those under way, and then those that would be planned.
	Rounds []forecast.Round
	// Walkers are signed on and moving; Still are the rounds that stand still.
	Walkers int
	Still   []Still
	// PlannedAt is when what waits is planned into rounds on schedule; nil where that is
	// done by hand.
	PlannedAt *time.Time
	// Lacking is so much of each order that nothing lies free for.
	Lacking map[int64]decimal.Decimal
}

// Still is a round on which nothing has moved for long.
type Still struct {
	ID      int64  `json:"id"`
	Number  string `json:"number"`
	Picker  string `json:"picker"`
	Minutes int    `json:"minutes"`
}
