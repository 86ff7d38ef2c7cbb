package transfers

import (
	"context"
	"fmt"

	"lanternrow/internal/catalog"
	"lanternrow/internal/core/posting"
	"lanternrow/internal/core/relaying"
	"lanternrow/internal/core/states"
	"lanternrow/internal/inbound"
	"lanternrow/internal/ledger"
	"lanternrow/internal/outbound"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

func init() { inbound.AddFollower(relays{}) }

// relays have goods that are received move on to another site by standing rules.
type relays struct{}

// relayRule is a standing rule by which goods move on to another site.
type relayRule struct {
	ID       int32
	Name     string
	ToSite   int32  `db:"to_site_id"`
	To       string `db:"to_site"`
	Item     *int32 `db:"item_id"`
	Supplier *int32 `db:"supplier_id"`
	Handling string
	Release  bool
	Days     int
	How      relaying.How
	Share    decimal.Decimal `db:"share_pct"`
}

// onward is goods that move on by a rule, where they stand.
type onward struct {
	item  int32
	sku   string
	total decimal.Decimal
	from  []ledger.Move
}

// A relayed is a transfer that follows a receipt.
type relayed struct {
	rule  relayRule
	goods []onward
}

// Foresee says what would move on.
func (relays) Foresee(ctx context.Context, q sqlx.QueryerContext, came []inbound.Receipt) (out []string, err error) {
	all, err := planRelays(ctx, q, came)
	for _, r := range all {
		for _, g := range r.goods {
			out = append(out, fmt.Sprintf("%s of %s move on to %s by %q: they are reserved for that on the dock.", g.total, g.sku,
				r.rule.To, r.rule.Name))
		}
	}
	return out, err
}

// Follow makes transfers of what moves on, one for each rule: its goods are reserved for it on the dock, so that they
// go straight from there.
func (relays) Follow(ctx context.Context, tx *command.Tx, came []inbound.Receipt) error {
	all, err := planRelays(ctx, tx, came)
	if err != nil {
		return err
	}
	for _, r := range all {
		if err := r.rule.send(ctx, tx, came[0], r.goods); err != nil {
			return err
		}
	}
	return nil
}

// planRelays is what of a receipt moves on, rule by rule.
func planRelays(ctx context.Context, q sqlx.QueryerContext, came []inbound.Receipt) (out []relayed, err error) {
	if len(came) == 0 {
		return nil, nil
	}
	var rules []relayRule
	if err := sqlx.SelectContext(ctx, q, &rules, `
		SELECT r.id, r.name, r.to_site_id, t.name AS to_site, r.item_id, r.supplier_id, r.handling, r.release, r.days, r.how,
		       r.share_pct
		  FROM relay_rules r JOIN sites t ON t.id = r.to_site_id WHERE r.site_id = $1 AND NOT r.retired
		 ORDER BY r.item_id IS NULL, r.supplier_id IS NULL, r.id`, came[0].Order.SiteID); err != nil {
		return nil, fmt.Errorf("reading relay rules: %w", err)
	}
	if len(rules) == 0 {
		return nil, nil
	}
	ids := make([]int32, len(came))
	for i, r := range came {
		ids[i] = r.Line.ItemID
	}
	items, err := catalog.ItemsByID(ctx, q, ids)
	if err != nil {
		return nil, err
	}
	for _, r := range came {
		rule, known := ruleFor(rules, items[r.Line.ItemID], r)
		if !known {
			continue
		}
		o, err := rule.onward(ctx, q, items[r.Line.ItemID], r)
		if err != nil {
			return nil, err
		}
		if o.total.IsPositive() {
			out = with(out, rule, o)
		}
	}
	return out, nil
}

// with adds goods to the transfer of their rule.
func with(all []relayed, rule relayRule, o onward) []relayed {
	for i := range all {
		if all[i].rule.ID == rule.ID {
			all[i].goods = append(all[i].goods, o)
			return all
		}
	}
	return append(all, relayed{rule, []onward{o}})
}

// ruleFor is the rule for an item that came: that of the item before that of its supplier, and that before that of its
// class. What is bought for somebody stays, and so does what a customer sends back.
func ruleFor(rules []relayRule, item catalog.Item, r inbound.Receipt) (relayRule, bool) {
	if r.Line.Covers != nil || r.Order.Kind == inbound.CustomerReturn {
		return relayRule{}, false
	}
	for _, rule := range rules {
		if (rule.Item == nil || *rule.Item == item.ID) && (rule.Handling == "" || rule.Handling == item.Handling) &&
			(rule.Supplier == nil || r.Order.PartyID != nil && *rule.Supplier == *r.Order.PartyID) {
			return rule, true
		}
	}
	return relayRule{}, false
}

// onward is how many of an item move on, of those that came loose and good: none where the other site may not have it.
func (r relayRule) onward(
	ctx context.Context, q sqlx.QueryerContext, item catalog.Item, in inbound.Receipt,
) (o onward, err error) {
	o = onward{item: item.ID, sku: item.SKU}
	came := decimal.Zero
	for _, m := range in.Moves {
		if (m.ToState == "" || m.ToState == posting.Good) && m.ToBox == nil {
			o.from, came = append(o.from, m), came.Add(m.Quantity)
		}
	}
	if !came.IsPositive() || catalog.Allowed(ctx, q, "", item, r.ToSite) != nil {
		return o, nil
	}
	there, err := ledger.FiguresFor(ctx, q, []int32{item.ID}, r.ToSite)
	if err != nil {
		return o, err
	}
	var target decimal.Decimal
	if err := sqlx.GetContext(ctx, q, &target, `
		SELECT coalesce((SELECT target FROM item_sites WHERE item_id = $1 AND site_id = $2), 0)`, item.ID, r.ToSite); err != nil {
		return o, fmt.Errorf("reading a target: %w", err)
	}
	f := there[item.ID]
	got, err := relaying.Rule{How: r.How, SharePct: r.Share}.Onward(relaying.Received{Quantity: came, Target: target,
		There: f.Free.Add(f.OnOrder), Whole: item.Whole})
	o.total = got.Onward
	return o, err
}

// send makes the transfer of goods that move on.
func (r relayRule) send(ctx context.Context, tx *command.Tx, came inbound.Receipt, goods []onward) error {
	transit, err := inTransit(ctx, tx)
	if err != nil {
		return err
	}
	state := states.OnHold
	if r.Release {
		state = states.Released
	}
	due := tx.Now.AddDate(0, 0, r.Days)
	id, err := outbound.Create(ctx, tx, outbound.New{Kind: outbound.Transfer, SiteID: came.Order.SiteID, ToSite: r.ToSite,
		DestinationID: transit, State: state, Change: "relayed it", WantedOn: tx.Now, DueOn: &due, Reference: came.Arrival})
	if err != nil {
		return err
	}
	lines := make([]outbound.NewLine, len(goods))
	for i, g := range goods {
		lines[i] = outbound.NewLine{Item: g.item, Quantity: g.total}
	}
	ids, err := outbound.AddLines(ctx, tx, id, lines)
	if err != nil {
		return err
	}
	if _, err := tx.ExecContext(ctx, `
		INSERT INTO transfer_orders (order_id, reason, relay_rule_id) VALUES ($1, $2, $3)`, id,
		"relay of "+came.Arrival+": "+r.Name, r.ID); err != nil {
		return fmt.Errorf("writing a relay: %w", err)
	}
	for i, g := range goods {
		if err := g.reserve(ctx, tx, ids[i]); err != nil {
			return err
		}
	}
	o, err := readOrder(ctx, tx, id)
	o.tell(tx)
	return err
}

// reserve reserves the goods for their line where they were received.
func (o onward) reserve(ctx context.Context, tx *command.Tx, line int64) error {
	left := o.total
	for _, m := range o.from {
		part := decimal.Min(left, m.Quantity)
		if !part.IsPositive() {
			return nil
		}
		at := ledger.Stock{Location: m.To, Item: m.Item, Lot: m.Lot, Serial: m.Serial}
		if _, err := reservation.Reserve(ctx, tx, line, at, part); err != nil {
			return err
		}
		left = left.Sub(part)
	}
	return nil
}
