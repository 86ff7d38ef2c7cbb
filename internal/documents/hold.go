package documents

import (
	"context"
	"fmt"
	"slices"

	"lanternrow/internal/platform/command"
)

// order is the one order in which a transaction holds documents; stock comes after all of
// them (ledger.Post, ledger.Reserve and ledger.LockBins). Whoever keeps to it never waits in a
// ring. Documents of one kind are held by their ids.
//
// A document that others lead to is behind them: a vehicle before the orders whose cartons
// are on it, an order before its rounds and cartons, an inbound order before its arrivals.
var order = []Kind{
	Schedule, Party, Load, PutawayWalk, Refill, InboundOrder, OutboundOrder, Arrival, Inspection, Round, Carton, Restock, Shipment,
	CountSheet,
}

// keys are the columns that documents are held by, where that is not id.
var keys = map[Kind]string{Carton: "carton_id"}

// A Ref names documents of one kind that are to be held.
type Ref struct {
	kind   Kind
	ids    []int64
	shared bool
}

// Own holds documents alone: nobody else may hold or change them.
func Own(k Kind, ids ...int64) Ref { return Ref{k, ids, false} }

// Share holds documents beside others who share them, so that nobody changes what is said
// of them meanwhile. What is shared can't be owned later in the same transaction.
func Share(k Kind, ids ...int64) Ref { return Ref{k, ids, true} }

// Hold holds documents until the transaction ends, in the one order, whatever the order in
// which they are named. It may be called several times, with kinds further and further
// behind; what is held already is passed over.
func Hold(ctx context.Context, tx *command.Tx, refs ...Ref) error {
	slices.SortStableFunc(refs, func(a, b Ref) int { return rank(a.kind) - rank(b.kind) })
	for _, r := range refs {
		ids := r.wanted(tx)
		if len(ids) == 0 {
			continue
		}
		if err := r.mayHold(ctx, tx, ids); err != nil {
			return err
		}
		note(tx, r.kind, ids, r.shared)
		key, lock := "id", "NO KEY UPDATE"
		if k := keys[r.kind]; k != "" {
			key = k
		}
		if r.shared {
			lock = "SHARE"
		}
		query := fmt.Sprintf(`SELECT FROM %s WHERE %s = ANY($1) ORDER BY %[2]s FOR %s`, r.kind, key, lock)
		if _, err := tx.ExecContext(ctx, query, ids); err != nil {
			return fmt.Errorf("holding %s %v: %w", r.kind, ids, err)
		}
	}
	return nil
}

// atSites are the kinds of documents that are of one site, where whoever changes them must be allowed to act.
var atSites = []Kind{Schedule, Load, PutawayWalk, Refill, InboundOrder, OutboundOrder, Arrival, Inspection, Round, Carton,
	Restock, Shipment, CountSheet}

// mayHold refuses to change documents of a site that whoever would may not act at. It asks nothing of most people, who
// may act at all.
func (r Ref) mayHold(ctx context.Context, tx *command.Tx, ids []int64) error {
	if r.shared || !slices.Contains(atSites, r.kind) || tx.Anywhere() {
		return nil
	}
	key := "id"
	if k := keys[r.kind]; k != "" {
		key = k
	}
	var sites []int32
	if err := tx.SelectContext(ctx, &sites, fmt.Sprintf(`SELECT DISTINCT site_id FROM %s WHERE %s = ANY($1) ORDER BY 1`, r.kind,
		key), ids); err != nil {
		return fmt.Errorf("reading the sites of %s: %w", r.kind, err)
	}
	return tx.At(ctx, sites...)
}

// Made notes that a document was made in this transaction, which nobody else knows yet.
func Made(tx *command.Tx, k Kind, id int64) {
	if tx.Held.What == nil {
		tx.Held.What = map[string]bool{}
	}
	tx.Held.What[name(k, id)] = true
}

// wanted are the documents that are not held yet, by their ids.
func (r Ref) wanted(tx *command.Tx) []int64 {
	ids := slices.Compact(slices.Sorted(slices.Values(r.ids)))
	return slices.DeleteFunc(ids, func(id int64) bool {
		alone, held := tx.Held.What[name(r.kind, id)]
		if held && !alone && !r.shared {
			tx.OutOfOrder("owning what is shared: " + name(r.kind, id))
		}
		return held && (alone || r.shared)
	})
}

func name(k Kind, id int64) string { return fmt.Sprintf("%s %d", k, id) }

func rank(k Kind) int { return slices.Index(order, k) }

// note writes down that documents are held, and tells when that is out of order.
func note(tx *command.Tx, k Kind, ids []int64, shared bool) {
	if tx.Held.What == nil {
		tx.Held.What = map[string]bool{}
	}
	if rank(k) < tx.Held.Rank {
		tx.OutOfOrder(fmt.Sprintf("%s %v", k, ids))
	}
	tx.Held.Rank = max(tx.Held.Rank, rank(k))
	for _, id := range ids {
		tx.Held.What[name(k, id)] = !shared
	}
}
