package orders

import (
	"context"
	"slices"
	"time"

	"lanternrow/internal/availability"
	"lanternrow/internal/core/pricing"
	"lanternrow/internal/core/projection"
	"lanternrow/internal/documents"

	"github.com/jmoiron/sqlx"
	"github.com/shopspring/decimal"
)

// Entered is an order as it stands in a form, which may be half written.
type Entered struct {
	OrderID    int64     `json:"order_id,omitempty" doc:"The order that is changed; none for a new one"`
	CustomerID int32     `json:"customer_id,omitempty" doc:"Whose prices are meant; the sales prices without"`
	SiteID     int32     `json:"site_id"`
	WantedOn   string    `json:"wanted_on,omitempty" maxLength:"40"`
	Lines      []NewLine `json:"lines" maxItems:"500"`
}

// Outlook is what an order would come to, line by line as they were entered.
type Outlook struct {
	Lines []LineOutlook   `json:"lines"`
	Total decimal.Decimal `json:"total" money:"true"`
	// Delays are the orders that could go on their day and cannot any more with this one before them.
	Delays []string `json:"delays"`
}

// LineOutlook is what a line would do to free stock. Lines of one item share what is free, the
// first of them first.
type LineOutlook struct {
	Free      decimal.Decimal `json:"free" doc:"What is free before this line"`
	FreeAfter decimal.Decimal `json:"free_after"`
	// NextOn and NextQuantity are the next inbound line that comes in.
	NextOn       *string          `json:"next_on"`
	NextQuantity *decimal.Decimal `json:"next_quantity"`
	// CanGo is as it would stand on the saved order's line; nil where nothing is wanted.
	CanGo *string `json:"can_go" doc:"The day on which it can go, orders wanted before it first; empty when no day is known"`
	// Price is what the customer pays for a base unit; nil where it has to be entered.
	Price *pricing.Price `json:"price" money:"true"`
}

// drafted is an item of an order that is entered: its course, and what the lines before have
// taken of it.
type drafted struct {
	course       availability.Course
	with         projection.Course
	free, before decimal.Decimal
}

// outlook calculates what an order would do to free stock, and what it would come to. What
// cannot be read of it counts as nothing: it is refused when the order is saved.
func outlook(ctx context.Context, q sqlx.QueryerContext, in Entered, now time.Time) (Outlook, error) {
	out := Outlook{Lines: make([]LineOutlook, len(in.Lines)), Delays: []string{}}
	stood, err := standing(ctx, q, in.OrderID)
	if err != nil {
		return out, err
	}
	terms, err := priceTerms(ctx, q, in.CustomerID, itemIDs(in.Lines))
	if err != nil {
		return out, err
	}
	items, err := draft(ctx, q, in, stood, now)
	if err != nil {
		return out, err
	}
	for _, d := range items {
		for _, other := range d.course.Delayed(d.with) {
			if other != stood.number && !slices.Contains(out.Delays, other) {
				out.Delays = append(out.Delays, other)
			}
		}
	}
	slices.Sort(out.Delays)
	for i, l := range in.Lines {
		wanted, price := amount(l.Quantity), amount(l.Price)
		line := &out.Lines[i]
		if d := items[l.ItemID]; d != nil {
			line.take(d, stood.left(l, wanted), wanted.Sub(stood.wanted(l.ID)), stood.number)
			if p, err := terms[l.ItemID].On("price", today(now)); err == nil {
				line.Price = &p
			}
		}
		if l.Price == "" && line.Price != nil {
			price = line.Price.Amount
		}
		out.Total = out.Total.Add(wanted.Mul(price))
	}
	out.Total = out.Total.Round(2)
	return out, nil
}

// take fills in what the line takes of its item: left is what of it is to go still, more is
// what it wants beside what it wanted before.
func (l *LineOutlook) take(d *drafted, left, more decimal.Decimal, number string) {
	l.Free = d.free
	d.free = d.free.Sub(more)
	l.FreeAfter = d.free
	d.before = d.before.Add(left)
	for _, f := range d.course.Lines {
		if !f.Out {
			l.NextOn, l.NextQuantity = &f.On, &f.Quantity
			break
		}
	}
	if left.IsPositive() {
		day := d.with.ServedPart(number, d.before)
		l.CanGo = &day
	}
}

// draft follows the course of each item of the order as it is entered.
func draft(
	ctx context.Context, q sqlx.QueryerContext, in Entered, stood stood, now time.Time,
) (map[int32]*drafted, error) {
	on := max(in.WantedOn, today(now))
	if _, err := documents.Day("", on); err != nil {
		on = today(now)
	}
	due := map[int32]decimal.Decimal{}
	for _, l := range in.Lines {
		due[l.ItemID] = due[l.ItemID].Add(stood.due(l, amount(l.Quantity)))
	}
	out := map[int32]*drafted{}
	for item, quantity := range due {
		if item == 0 {
			continue
		}
		c, err := availability.CourseOf(ctx, q, item, in.SiteID, decimal.Zero, now)
		if err != nil {
			return nil, err
		}
		flow := projection.Flow{On: on, Quantity: quantity, Out: true, Document: stood.number}
		out[item] = &drafted{course: c, with: c.With(flow), free: c.Free}
	}
	return out, nil
}

// stood is an order as it stands, before it is changed; a new one has no lines and no number.
type stood struct {
	number string
	lines  map[int64]Line
}

func standing(ctx context.Context, q sqlx.QueryerContext, id int64) (stood, error) {
	out := stood{lines: map[int64]Line{}}
	if id == 0 {
		return out, nil
	}
	o, err := Read(ctx, q, id)
	if err != nil {
		return out, err
	}
	out.number = o.Number
	for _, l := range o.Lines {
		out.lines[l.ID] = l
	}
	return out, nil
}

// wanted is what a line wanted before it was changed.
func (s stood) wanted(id int64) decimal.Decimal {
	l := s.lines[id]
	return l.Quantity.Sub(l.Cancelled)
}

// due is what of a line is not in cartons yet, once so much of it is wanted.
func (s stood) due(l NewLine, wanted decimal.Decimal) decimal.Decimal {
	was := s.lines[l.ID]
	return decimal.Max(decimal.Zero, wanted.Sub(s.wanted(l.ID)).Add(was.Due))
}

// left is what of it no exact stock is reserved for.
func (s stood) left(l NewLine, wanted decimal.Decimal) decimal.Decimal {
	was := s.lines[l.ID]
	return decimal.Max(decimal.Zero, s.due(l, wanted).Sub(was.Planned).Sub(was.Reserved))
}

// amount is a figure as it is entered; what is none yet counts as nothing.
func amount(text string) decimal.Decimal {
	n, err := decimal.NewFromString(text)
	if err != nil || n.IsNegative() {
		return decimal.Zero
	}
	return n
}

func itemIDs(lines []NewLine) (ids []int32) {
	for _, l := range lines {
		if l.ItemID != 0 {
			ids = append(ids, l.ItemID)
		}
	}
	return ids
}
