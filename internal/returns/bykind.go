package returns

import (
	"context"

	"lanternrow/internal/inbound"
	"lanternrow/internal/platform/command"

	"github.com/jmoiron/sqlx"
)

// byKind is, for goods that came from a customer, the verdict that a return's kind has on them, if it has one; somebody decides else.
func byKind(ctx context.Context, q sqlx.QueryerContext, r inbound.Receipt) (v Verdict, has bool, err error) {
	o, line, err := own(ctx, q, r.Line)
	if err != nil || line.ID == 0 || !o.Decides.takes(r.Found) {
		return v, false, err
	}
	v = Verdict{LineID: line.ID, Fate: o.Decides, Quantity: r.Quantity().String(),
		Reason: "as every return of the kind " + o.Kind}
	for _, m := range r.Moves {
		if m.SerialCode != "" {
			v.Serials = append(v.Serials, m.SerialCode)
		}
	}
	return v, true, nil
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
	for _, r := range came {
		if r.Order.Kind != inbound.CustomerReturn {
			continue
		}
		v, has, err := byKind(ctx, tx, r)
		if err == nil && has {
			err = decide(ctx, tx, r.Order.ID, v)
		}
		if err != nil {
			return err
		}
	}
	return nil
}
