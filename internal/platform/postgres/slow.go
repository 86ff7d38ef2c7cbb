package postgres

import (
	"context"
	"log/slog"
	"strings"
	"time"

	"lanternrow/internal/people"

	"github.com/jackc/pgx/v5"
)

// slowAfter is how long a statement may take before it is named in the log, and longestNamed how many characters of it are.
const (
	slowAfter    = time.Second
	longestNamed = 300
)

// slowQueries names statements that take long, with the request that asked and who did. What was asked of them, which may be
// anybody's, is not written down.
type slowQueries struct{ after time.Duration }

type begunKey struct{}

type begun struct {
	at  time.Time
	sql string
}

// TraceQueryStart implements pgx.QueryTracer.
func (slowQueries) TraceQueryStart(ctx context.Context, _ *pgx.Conn, q pgx.TraceQueryStartData) context.Context {
	return context.WithValue(ctx, begunKey{}, begun{time.Now(), q.SQL})
}

// TraceQueryEnd implements pgx.QueryTracer.
func (s slowQueries) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, end pgx.TraceQueryEndData) {
	b, ok := ctx.Value(begunKey{}).(begun)
	if !ok || time.Since(b.at) < s.after {
		return
	}
	text := strings.Join(strings.Fields(b.sql), " ")
	if r := []rune(text); len(r) > longestNamed {
		text = string(r[:longestNamed]) + "…"
	}
	who, _ := people.Acting(ctx)
	slog.Warn("slow query", "ms", time.Since(b.at).Milliseconds(), "request", people.OriginOf(ctx).Request, "person", who.Login,
		"query", text, "error", end.Err)
}
