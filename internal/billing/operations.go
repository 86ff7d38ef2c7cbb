package billing

import (
	"context"
	"net/http"

	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"
)

type byID struct {
	ID int64 `path:"id"`
}

// Register adds the operations of bills.
func Register(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/unbilled", "list-unbilled", "What is shipped and not billed", web.Everyone,
		func(ctx context.Context, in *struct {
			Site int32 `query:"site"`
		}) ([]Unbilled, error) {
			return listUnbilled(ctx, db, in.Site)
		})
	web.Query(r, http.MethodGet, "/sales-bills", "list-sales-bills", "Bills to customers, the latest first", web.Everyone,
		func(ctx context.Context, in *struct {
			Site   int32 `query:"site"`
			Before int64 `query:"before" doc:"Older than this one"`
		}) ([]Bill, error) {
			return listBills(ctx, db, in.Site, in.Before)
		})
	web.Query(r, http.MethodGet, "/sales-bills/{id}", "get-sales-bill", "A bill", web.Everyone,
		func(ctx context.Context, in *byID) (Bill, error) { return readBill(ctx, db, in.ID) })
	web.Command(r, "/sales-bills", "bill-deliveries", "Bill deliveries, a bill for each", web.Office,
		func(ctx context.Context, tx *command.Tx, in *struct {
			Body struct {
				DeliveryIDs []int64 `json:"delivery_ids" minItems:"1" maxItems:"500"`
				Mail        bool    `json:"mail,omitempty" doc:"Mail each to its customer"`
			}
		}) ([]Bill, error) {
			return Make(ctx, tx, in.Body.DeliveryIDs, in.Body.Mail)
		})
	web.Command(r, "/sales-bills/{id}/mail", "mail-sales-bill", "Mail a bill to its customer", web.Office,
		func(ctx context.Context, tx *command.Tx, in *byID) (Bill, error) {
			if err := Mail(ctx, tx, in.ID); err != nil {
				return Bill{}, err
			}
			return readBill(ctx, tx, in.ID)
		})
	web.Paper(r, "/sales-bills/{id}/bill.pdf", "print-sales-bill", "A bill on paper", func(ctx context.Context, in *byID) (string, []byte, error) {
		b, pdf, err := paper(ctx, db, in.ID)
		return b.Number, pdf, err
	})
}
