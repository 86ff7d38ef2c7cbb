package bench

import (
	"context"
	"lanternrow/internal/platform/config"
)

func Run(ctx context.Context, c config.Config, moves int, out string) error { return nil }
