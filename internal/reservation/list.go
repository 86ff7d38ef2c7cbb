package reservation

import "lanternrow/internal/documents"

// Reservations are those of a site, over it and letters of an order, a customer, a bin, an item,
// a lot, a unit or a round.
var Reservations = documents.List[Reservation]{
	Query: reservationColumns + `
		WHERE o.site_id = $1 AND ($2 = '' OR concat_ws(' ', o.number, o.recipient, p.code, i.sku, i.description, l.code,
		  u.code, b.sscc, r.number) ILIKE '%' || $2 || '%')`,
	Keys: map[string]documents.SortKey{
		"order":       {Expr: "o.order_number", Type: "text"},
		"customer":    {Expr: "lower(o.customer)", Type: "text"},
		"wanted":      {Expr: "coalesce(o.wanted_on, '')", Type: "text"},
		"sku":         {Expr: "o.sku", Type: "text"},
		"description": {Expr: "lower(o.description)", Type: "text"},
		"bin":         {Expr: "o.location", Type: "text"},
		"lot":         {Expr: "o.lot || o.serial || o.carton", Type: "text"},
		"quantity":    {Expr: "o.quantity", Type: "numeric"},
		"round":       {Expr: "o.round", Type: "text"},
	},
	Header: []string{"order", "customer", "wanted_on", "sku", "description", "bin", "lot", "serial", "carton",
		"quantity", "unit", "round"},
	Text: func(r Reservation) []string {
		return []string{r.Order, r.Customer, r.WantedOn, r.SKU, r.Description, r.Location, r.Lot, r.Serial, r.Carton,
			r.Quantity.String(), r.Unit, r.Round}
	},
}
