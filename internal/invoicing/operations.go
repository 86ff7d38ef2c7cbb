package invoicing

import (
	"context"
	"net/http"

	"lanternrow/internal/documents"
	"lanternrow/internal/exchange"
	"lanternrow/internal/platform/command"
	"lanternrow/internal/platform/web"

	"github.com/jmoiron/sqlx"
)

type byID struct {
	ID int64 `path:"id"`
}

// Register adds the operations of invoices.
func Register(r *web.Router) {
	db := r.Reads
	// Before the path that takes any word for an id.
	registerLists(r)
	registerUninvoiced(r)
	web.Query(r, http.MethodGet, "/invoices", "list-invoices", "Invoices to customers, the latest first", web.Desk,
		func(ctx context.Context, in *struct {
			Site   int32 `query:"site"`
			Before int64 `query:"before" doc:"Older than this one"`
		}) ([]Invoice, error) {
			return listInvoices(ctx, db, in.Site, in.Before)
		})
	web.Query(r, http.MethodGet, "/invoices/{id}", "get-invoice", "An invoice", web.Desk,
		func(ctx context.Context, in *byID) (Invoice, error) { return readInvoice(ctx, db, in.ID) })
	web.Command(r, "/invoices", "invoice-shipments",
		"Invoice shipments, an invoice for each, or one for those of a customer that wants them together", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct{ Body Wanted }) ([]Invoice, error) {
			return Make(ctx, tx, in.Body.ShipmentIDs, in.Body.Mail)
		})
	web.Command(r, "/invoices/{id}/credit", "credit-invoice", "Take an invoice back by a credit note", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *struct {
			ID   int64 `path:"id"`
			Body struct {
				Reason string `json:"reason" maxLength:"200" doc:"Why; it stands on the credit note"`
			}
		}) (Invoice, error) {
			return Credit(ctx, tx, in.ID, in.Body.Reason)
		})
	web.Command(r, "/invoices/{id}/mail", "mail-invoice", "Mail an invoice to its customer", web.Accounts,
		func(ctx context.Context, tx *command.Tx, in *byID) (Invoice, error) {
			if err := Mail(ctx, tx, in.ID); err != nil {
				return Invoice{}, err
			}
			return readInvoice(ctx, tx, in.ID)
		})
	web.PaperFor(r, web.Desk, "/invoices/{id}/invoice.pdf", "print-invoice", "An invoice on paper",
		func(ctx context.Context, in *byID) (string, []byte, error) {
			b, pdf, err := paper(ctx, db, in.ID)
			return b.Number, pdf, err
		})
}

// registerLists adds the list of a site's invoices, page by page and as a file.
func registerLists(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/invoices/list", "page-invoices", "Invoices of a site, page by page", web.Desk,
		func(ctx context.Context, in *struct {
			Site  int32  `query:"site"`
			Text  string `query:"q" maxLength:"80" doc:"Letters of a number, an order, a shipment or a customer"`
			Sort  string `query:"sort" enum:"number,customer,order,shipment,made,terms,due,net,total" default:"number"`
			Down  bool   `query:"down" doc:"From the last to the first"`
			After string `query:"after" maxLength:"400"`
			Limit int    `query:"limit" minimum:"1" maximum:"500" default:"100"`
		}) (Page, error) {
			by, err := documents.SortBy(sortKeys, in.Sort, in.Down, in.After)
			if err != nil {
				return Page{}, err
			}
			return pageInvoices(ctx, db, in.Site, in.Text, by, in.Limit)
		})
	web.DownloadFor(r, web.Desk, "/invoices/export", "export-invoices", "Invoices of a site as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site   int32  `query:"site"`
			Text   string `query:"q" maxLength:"80"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "invoices", in.Format)(invoiceTable(ctx, from, in.Site, in.Text))
		})
}

// registerUninvoiced adds what is shipped and not invoiced, and which invoices it would make.
func registerUninvoiced(r *web.Router) {
	db := r.Reads
	web.Query(r, http.MethodGet, "/uninvoiced", "list-uninvoiced", "What is shipped and not invoiced", web.Desk,
		func(ctx context.Context, in *struct {
			Site int32  `query:"site"`
			Sort string `query:"sort" enum:"shipment,shipped,order,customer,lines,value" default:"shipment"`
			documents.Asked
		}) (documents.Page[Uninvoiced], error) {
			return uninvoiced.Page(ctx, db, in.Sort, in.Asked, in.Site)
		})
	web.DownloadFor(r, web.Desk, "/uninvoiced/export", "export-uninvoiced", "The same as CSV or XLSX", exchange.Types,
		func(ctx context.Context, from *sqlx.DB, in *struct {
			Site   int32  `query:"site"`
			Sort   string `query:"sort" enum:"shipment,shipped,order,customer,lines,value" default:"shipment"`
			Down   bool   `query:"down"`
			Format string `query:"format" enum:"csv,xlsx" default:"csv"`
		}) (web.File, error) {
			return web.TableFile(ctx, "uninvoiced", in.Format)(uninvoiced.Table(ctx, from, in.Sort, in.Down, in.Site))
		})
	web.Query(r, http.MethodPost, "/invoices/preview", "preview-invoices", "Which invoices would be made of shipments",
		web.Accounts,
		func(ctx context.Context, in *struct{ Body Wanted }) (Preview, error) {
			return preview(ctx, db, in.Body)
		})
}
