package ledger

import (
	"crypto/sha256"
	"encoding/binary"
	"slices"
)

// lengthPrefixed writes fields one behind the other, each with its length in bytes before it, as four bytes, the highest
// first; nil has the length -1. No two lists of fields are written alike.
func lengthPrefixed(fields []*string) []byte {
	var out []byte
	for _, f := range fields {
		if f == nil {
			out = binary.BigEndian.AppendUint32(out, 0xffffffff)
			continue
		}
		out = append(binary.BigEndian.AppendUint32(out, uint32(len(*f))), *f...)
	}
	return out
}

// link is the hash of what is sealed behind another seal: SHA-256 over that one's hash and the words.
func link(before, words []byte) []byte {
	sum := sha256.Sum256(append(slices.Clone(before), words...))
	return sum[:]
}

// sealableRows reads, from the tables themselves, each row that is sealed: its kind, its id, the transaction that wrote it or
// gave it its name, and the fields that its seal is made of. The database seals by a view that reads the same; this one is
// kept here, so that nobody who changes the view changes what Verify looks at.
const sealableRows = `
	SELECT 'move' AS kind, m.id, p.xid,
	       ARRAY['move', m.id::text, p.id::text, p.kind, p.person_id::text, p.document, p.note, p.request_key,
	             extract(epoch FROM p.happened_at)::text, extract(epoch FROM p.entered_at)::text, m.item_id::text, m.lot_id::text,
	             m.serial_id::text, m.quantity::text, m.from_location::text, m.from_carton::text, m.from_condition, m.to_location::text,
	             m.to_carton::text, m.to_condition, m.unit_cost::text] AS fields
	  FROM moves m JOIN postings p ON p.id = m.posting_id
	UNION ALL
	SELECT 'item', id, xid, ARRAY['item', id::text, sku, description, base_unit, tracking] FROM items
	UNION ALL
	SELECT 'lot', id, xid, ARRAY['lot', id::text, item_id::text, code, expires_on::text, arrived_on::text, supplier_code] FROM lots
	UNION ALL
	SELECT 'serial', id, xid, ARRAY['serial', id::text, item_id::text, code] FROM serials
	UNION ALL
	SELECT 'carton', id, xid, ARRAY['carton', id::text, sscc, kind] FROM cartons
	UNION ALL
	SELECT 'person', id, xid, ARRAY['person', id::text, name, login] FROM people
	UNION ALL
	SELECT 'location', id, xid, ARRAY['location', id::text, site_id::text, kind, code] FROM locations
	UNION ALL
	SELECT 'party', id, xid, ARRAY['party', id::text, kind, code, name] FROM parties
	UNION ALL
	SELECT 'shipment', s.id, s.xid,
	       ARRAY['shipment', s.id::text, s.number, s.order_id::text, s.site_id::text, s.shipped_by::text,
	             extract(epoch FROM s.shipped_at)::text,
	             (SELECT jsonb_agg(jsonb_build_array(l.line_id, l.quantity) ORDER BY l.line_id)::text FROM shipment_lines l
	               WHERE l.shipment_id = s.id)]
	  FROM shipments s
	UNION ALL
	SELECT 'invoice', b.id, b.xid,
	       ARRAY['invoice', b.id::text, b.number, b.site_id::text, b.customer_id::text, b.invoiced_on::text, b.due_on::text, b.terms,
	             b.net::text, b.total::text, b.made_by::text, extract(epoch FROM b.made_at)::text, b.credits::text, b.reason,
	             (SELECT jsonb_agg(jsonb_build_array(l.shipment_id, l.line_id, l.quantity, l.price, l.tax_pct)
	                               ORDER BY l.shipment_id, l.line_id)::text FROM invoice_lines l WHERE l.invoice_id = b.id)]
	  FROM invoices b
	UNION ALL
	SELECT 'supplier_invoice', b.id, b.xid,
	       ARRAY['supplier_invoice', b.id::text, b.order_id::text, b.supplier_id::text, b.number, b.invoiced_on::text,
	             b.entered_by::text, extract(epoch FROM b.entered_at)::text, b.takes_back::text, b.reason, b.freight::text, b.carrier,
	             (SELECT jsonb_agg(jsonb_build_array(l.line_id, l.quantity, l.price, l.reason) ORDER BY l.line_id)::text
	                FROM supplier_invoice_lines l WHERE l.invoice_id = b.id)]
	  FROM supplier_invoices b
	UNION ALL
	SELECT 'recost', r.id, r.xid,
	       ARRAY['recost', r.id::text, r.item_id::text, r.after_move::text, r.person_id::text, r.document, r.note,
	             extract(epoch FROM r.entered_at)::text,
	             (SELECT jsonb_agg(jsonb_build_array(p.method, p.place, p.value) ORDER BY p.method, p.place)::text FROM recost_parts p
	               WHERE p.recost_id = r.id)]
	  FROM recosts r
	UNION ALL
	SELECT 'sales_line', line_id, xid, ARRAY['sales_line', line_id::text, price::text, price_source, price_why] FROM sales_lines
	UNION ALL
	SELECT 'purchase_line', line_id, xid, ARRAY['purchase_line', line_id::text, price::text] FROM purchase_lines
	UNION ALL
	SELECT 'purchase_order', order_id, xid,
	       ARRAY['purchase_order', order_id::text, supplier_id::text, freight::text, freight_by, approved_by::text]
	  FROM purchase_orders`
