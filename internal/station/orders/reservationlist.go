package orders

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/database"
	"lanternrow/internal/platform/web"
	"lanternrow/internal/reservation"

	"github.com/jmoiron/sqlx"
)

// registerReservationList adds the reservations of a site, page by page and as a file.
func registerReservationList(r *web.Router) {
	db := r.Reads
	type Whose struct {
		Site int32  `query:"site"`
		Text string `query:"q" maxLength:"80" doc:"Letters of an order, a customer, a bin, an item, a lot or a round"`
		Sort string `query:"sort" enum:"order,customer,wanted,sku,description,bin,lot,quantity,round" default:"wanted"`
	}
	web.Query(r, http.MethodGet, "/reservations", "list-reservations", "Reservations of a site, page by page",
		web.Everyone,
		func(ctx context.Context, in *struct {
			Whose
			documents.Asked
		}) (documents.Page[reservation.Reservation], error) {
			return reservation.Reservations.Page(ctx, db, in.Sort, in.Asked, in.Site, database.LikeLiteral(in.Text))
		})
	web.Download(r, "/reservations/export", "export-reservations", "Reservations of a site as CSV or XLSX",
		exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Whose
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "reservations", in.Format)(reservation.Reservations.Table(ctx, from, in.Sort, in.Down, in.Site, database.LikeLiteral(in.Text)))
		})
}
