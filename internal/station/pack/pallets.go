package pack

import (
	"context"
	"fmt"
	"time"

	"lanternrow/internal/cartons"
	"lanternrow/internal/core/measure"
	"lanternrow/internal/core/refusal"
	"lanternrow/internal/core/states"
	"lanternrow/internal/documents"
	"lanternrow/internal/papers"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/resolving"

	"github.com/jmoiron/sqlx"
)

// scannedCarton finds the carton or pallet that a scan is of.
func scannedCarton(
	ctx context.Context, q sqlx.QueryerContext, site int32, field, scan string, now time.Time,
) (int64, error) {
	read, err := resolving.Read(ctx, q, site, scan, now)
	if err != nil {
		return 0, refusal.At(err, field)
	}
	if c, scanned := read.Carton(); scanned {
		return c.ID, nil
	}
	return 0, refusal.New(refusal.WrongCarton, field, "You scanned %s, which is no carton label here.",
		scan).Of(refusal.Conflict)
}

// Stack puts packed cartons of one carrier onto a pallet, a new one or one that some stand
// on already.
func Stack(ctx context.Context, tx *command.Tx, prefix string, in Stacking) ([]cartons.Carton, error) {
	pallet := cartons.Pallet{Kind: "pallet"}
	carrier := ""
	if in.Pallet != "" {
		id, err := scannedCarton(ctx, tx, in.SiteID, "pallet", in.Pallet, tx.Now)
		if err != nil {
			return nil, err
		}
		on, err := cartons.StackedOn(ctx, tx, id)
		if err != nil {
			return nil, err
		}
		if len(on) == 0 || on[0].State != states.CartonPacked {
			return nil, refusal.New(refusal.PalletUnknown, "pallet",
				"%s is no pallet of packed cartons here. Leave it empty for a new pallet.", in.Pallet).Of(refusal.Conflict)
		}
		pallet.ID, carrier = id, on[0].Carrier
	} else if err := pallet.Ensure(ctx, tx, prefix); err != nil {
		return nil, err
	}
	ids := make([]int64, len(in.Cartons))
	for i, scan := range in.Cartons {
		id, err := scannedCarton(ctx, tx, in.SiteID, fmt.Sprintf("cartons[%d]", i), scan, tx.Now)
		if err != nil {
			return nil, err
		}
		ids[i] = id
	}
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, ids...)); err != nil {
		return nil, err
	}
	for i, id := range ids {
		field := fmt.Sprintf("cartons[%d]", i)
		c, err := cartons.ByID(ctx, tx, id)
		switch {
		case err != nil:
			return nil, err
		case c.State != states.CartonPacked:
			return nil, refusal.New(refusal.CartonState, field, "Carton …%s is %s. Only packed cartons are stacked.",
				c.SSCC[14:], states.Label(c.State)).Of(refusal.Conflict)
		case c.PalletID != nil && *c.PalletID != pallet.ID:
			return nil, refusal.New(refusal.CartonStacked, field,
				"Carton …%s stands on pallet …%s already. Take it off first.", c.SSCC[14:], c.Pallet[14:]).Of(refusal.Conflict)
		case carrier != "" && c.Carrier != carrier:
			return nil, refusal.New(refusal.OtherCarrier, field, "Carton …%s goes with %s, and this pallet with %s.",
				c.SSCC[14:], c.Carrier, carrier).Of(refusal.Conflict)
		}
		carrier = c.Carrier
		if _, err := tx.ExecContext(ctx, `
			UPDATE carton_work SET pallet_id = $2 WHERE carton_id = $1`, id, pallet.ID); err != nil {
			return nil, fmt.Errorf("stacking a carton: %w", err)
		}
	}
	tx.NotifySite(in.SiteID, "pack", "dispatch")
	return cartons.StackedOn(ctx, tx, pallet.ID)
}

// Unstack takes a carton off its pallet.
func Unstack(ctx context.Context, tx *command.Tx, id int64) (cartons.Carton, error) {
	if err := documents.Hold(ctx, tx, documents.Own(documents.Carton, id)); err != nil {
		return cartons.Carton{}, err
	}
	result, err := tx.ExecContext(ctx, `
		UPDATE carton_work SET pallet_id = NULL WHERE carton_id = $1 AND state = 'packed' AND pallet_id IS NOT NULL`,
		id)
	if err != nil {
		return cartons.Carton{}, fmt.Errorf("unstacking a carton: %w", err)
	}
	if n, _ := result.RowsAffected(); n == 0 {
		return cartons.Carton{}, refusal.New(refusal.CartonNotStacked, "",
			"The carton stands on no pallet, or is on a vehicle already.").Of(refusal.Conflict)
	}
	c, err := cartons.ByID(ctx, tx, id)
	tx.NotifySite(c.SiteID, "pack", "dispatch")
	return c, err
}

func palletLabel(ctx context.Context, q sqlx.QueryerContext, id int64) (string, []byte, error) {
	on, err := cartons.StackedOn(ctx, q, id)
	if err != nil {
		return "", nil, err
	}
	if len(on) == 0 {
		return "", nil, documents.Missing("pallet", fmt.Sprint(id))
	}
	from, err := siteName(ctx, q, on[0].SiteID)
	if err != nil {
		return "", nil, err
	}
	l := on[0].Label(from)
	l.SSCC, l.Order = on[0].Pallet, measure.Count(len(on), "carton")
	for _, c := range on {
		if c.Customer != on[0].Customer {
			l.To = "Several, by the labels on the cartons"
		}
	}
	pdf, err := papers.CartonLabels([]papers.CartonLabel{l})
	return "label-" + l.SSCC, pdf, err
}

// contentsList is every carton of an order with what is in it.
func contentsList(ctx context.Context, q sqlx.QueryerContext, order int64) (string, []byte, error) {
	var o struct{ Number, Reference, Address, Customer, Carrier, Site string }
	err := sqlx.GetContext(ctx, q, &o, `
		SELECT o.number, o.reference, o.carrier, o.address, o.recipient AS customer, s.name AS site FROM outbound o
		  JOIN sites s ON s.id = o.site_id WHERE o.id = $1`, order)
	if err != nil {
		return "", nil, documents.Found(err, "order", fmt.Sprint(order))
	}
	n := papers.Note{Title: "Contents list", Number: o.Number, Order: "Order " + o.Number, Reference: o.Reference,
		Date: time.Now().UTC().Format(time.DateOnly), From: o.Site, To: o.Customer, Address: o.Address, Carrier: o.Carrier}
	for _, state := range []string{"at_bench", "packed", "loaded", "shipped"} {
		found, err := cartons.OfOrder(ctx, q, order, state)
		if err != nil {
			return "", nil, err
		}
		for _, c := range found {
			g := c.Group()
			if c.Pallet != "" {
				g.Heading += ", on pallet " + c.Pallet
			}
			n.Groups = append(n.Groups, g)
		}
	}
	if len(n.Groups) == 0 {
		return "", nil, refusal.New(refusal.NothingPacked, "", "%s has nothing in cartons yet.",
			o.Number).Of(refusal.Conflict)
	}
	pdf, err := n.Print()
	return "contents-" + o.Number, pdf, err
}
