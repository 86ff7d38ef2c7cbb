package returns

import (
	"context"
	"fmt"

	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// A habit is what becomes of goods of a line by the kind of its return; no fate where somebody decides.
type habit struct {
	LineID int64 `db:"line_id"`
	Fate   Fate  `db:"decides"`
	Kind   string
}

// habits reads, by line, what the kinds of returns do with goods that come in by themselves.
func habits(ctx context.Context, q sqlx.QueryerContext, came []inbound.Receipt) (map[int64]habit, error) {
	var lines []int64
	for _, r := range came {
		if r.Order.Kind == inbound.CustomerReturn {
			lines = append(lines, r.Line.ID)
		}
	}
	if len(lines) == 0 {
		return nil, nil
	}
	var rows []habit
	if err := sqlx.SelectContext(ctx, q, &rows, `
		SELECT l.line_id, r.decides, k.name AS kind
		  FROM return_lines l JOIN inbound_lines n ON n.id = l.line_id JOIN returns r ON r.order_id = n.order_id
		  JOIN return_kinds k ON k.id = r.kind_id WHERE l.line_id = ANY($1)`, lines); err != nil {
		return nil, fmt.Errorf("reading what returns decide by themselves: %w", err)
	}
	out := map[int64]habit{}
	for _, h := range rows {
		out[h.LineID] = h
	}
	return out, nil
}

// verdict is that on goods as they came in.
func (h habit) verdict(r inbound.Receipt) Verdict {
	v := Verdict{LineID: h.LineID, Fate: h.Fate, Quantity: r.Quantity().String(), Reason: "as every return of the kind " + h.Kind}
	for _, m := range r.Moves {
		if m.SerialCode != "" {
			v.Serials = append(v.Serials, m.SerialCode)
		}
	}
	return v
}

// takes tells whether goods found in a condition become this by themselves: only what is as new goes back to stock
// with nobody looking at it again.
func (f Fate) takes(found inbound.Found) bool {
	return f != "" && (f != ToStock || found == inbound.AsNew)
}

// byItself says what goods become with nobody asked.
func (f Fate) byItself() string {
	if f == ToStock {
		return "What comes as new goes back to stock by itself; somebody decides on the rest."
	}
	return "What comes in goes " + ends[f].words + " by itself."
}

// decideByKind decides on what came of kinds that do it by themselves. The orders are held.
func decideByKind(ctx context.Context, tx *command.Tx, came []inbound.Receipt) error {
	by, err := habits(ctx, tx, came)
	if err != nil {
		return err
	}
	for _, r := range came {
		h := by[r.Line.ID]
		if !h.Fate.takes(r.Found) {
			continue
		}
		if err := decide(ctx, tx, r.Order.ID, h.verdict(r)); err != nil {
			return err
		}
	}
	return nil
}
