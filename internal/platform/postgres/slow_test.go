package postgres

import (
	"bytes"
	"context"
	"log/slog"
	"strings"
	"testing"
	"time"

	"lanternrow/internal/people"

	"github.com/jackc/pgx/v5"
)

// TestASlowQueryIsNamedWithWhoAsked traces one statement that takes longer than it may and one that does not: the first is
// named, on one line, with its request and without what was asked of it.
func TestASlowQueryIsNamedWithWhoAsked(t *testing.T) {
	var said bytes.Buffer
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(&said, nil)))
	defer slog.SetDefault(before)
	ctx := people.From(people.With(context.Background(), people.Person{Login: "ines"}), people.Origin{Request: "ABC12345"})
	query := pgx.TraceQueryStartData{SQL: "SELECT *\n\t  FROM moves WHERE note = $1", Args: []any{"a secret"}}
	for _, after := range []time.Duration{time.Hour, 0} {
		s := slowQueries{after}
		s.TraceQueryEnd(s.TraceQueryStart(ctx, nil, query), nil, pgx.TraceQueryEndData{})
	}
	line := said.String()
	if strings.Count(line, "slow query") != 1 || !strings.Contains(line, `query="SELECT * FROM moves WHERE note = $1"`) ||
		!strings.Contains(line, "request=ABC12345 person=ines") || strings.Contains(line, "secret") {
		t.Errorf("the log says %s", line)
	}
}
