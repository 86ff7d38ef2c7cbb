package refusal

// A Code names a refusal for programs. It is stable: sentences may be worded anew, codes
// stay. The constants below are all there are.
type Code string

// Refusals about requests and sign-on.
const (
	BodyCompressed  Code = "body_compressed"
	BodyLarge       Code = "body_large"
	Busy            Code = "busy"
	CSRF            Code = "csrf"
	CursorMalformed Code = "cursor_malformed"
	DateMalformed   Code = "date_malformed"
	DayFar          Code = "day_far"
	DayPast         Code = "day_past"
	HouseBusy       Code = "house_busy"
	Internal        Code = "internal"
	KeyMalformed    Code = "key_malformed"
	KeyReused       Code = "key_reused"
	LeadDecides     Code = "lead_decides"
	Malformed       Code = "malformed"
	NoSuchOperation Code = "no_such_operation"
	NumberAbsurd    Code = "number_absurd"
	OutcomeUnknown  Code = "outcome_unknown"
	PasswordNeeded  Code = "password_needed"
	ReasonShort     Code = "reason_short"
	RefersToNothing Code = "refers_to_nothing"
	Role            Code = "role"
	NotSignedOn     Code = "signed_out"
	Stale           Code = "stale"
	TextMalformed   Code = "text_malformed"
	TooManyAttempts Code = "too_many_attempts"
	TooSlow         Code = "too_slow"
	DatabaseAway    Code = "database_away"
	DiskFull        Code = "disk_full"
	Unknown         Code = "unknown"
	WrongSecret     Code = "wrong_secret"
	SecretWeak      Code = "secret_weak"
	SecretGiven     Code = "secret_given"
	LoginTaken      Code = "login_taken"
	LastLead        Code = "last_lead"
	PersonOver      Code = "person_over"
	HouseFounded    Code = "house_founded"
	TLSWanted       Code = "tls_wanted"
)

// Refusals about GS1 codes and scans.
const (
	CheckDigit           Code = "check_digit"
	GS1Empty             Code = "gs1_empty"
	GS1Excluded          Code = "gs1_excluded"
	GS1Repeated          Code = "gs1_repeated"
	GS1Required          Code = "gs1_required"
	GS1Symbology         Code = "gs1_symbology"
	GS1UnknownIdentifier Code = "gs1_unknown_identifier"
	GS1Value             Code = "gs1_value"
	GTINMalformed        Code = "gtin_malformed"
	GTINUnknown          Code = "gtin_unknown"
	ScanLong             Code = "scan_long"
	SSCCMalformed        Code = "sscc_malformed"
	SSCCRange            Code = "sscc_range"
)

// Refusals about quantities and prices.
const (
	PriceMalformed    Code = "price_malformed"
	PriceMissing      Code = "price_missing"
	QuantityAbsurd    Code = "quantity_absurd"
	QuantityFraction  Code = "quantity_fraction"
	QuantityMalformed Code = "quantity_malformed"
	QuantityNegative  Code = "quantity_negative"
	QuantityTooFine   Code = "quantity_too_fine"
	QuantityZero      Code = "quantity_zero"
)

// Refusals about sheets and tables.
const (
	AddressMalformed     Code = "address_malformed"
	BinElsewhere         Code = "bin_elsewhere"
	BinUnknown           Code = "bin_unknown"
	CellLong             Code = "cell_long"
	ChoiceUnknown        Code = "choice_unknown"
	CodeTaken            Code = "code_taken"
	ColumnMissing        Code = "column_missing"
	ColumnTwice          Code = "column_twice"
	ColumnUnknown        Code = "column_unknown"
	CountMalformed       Code = "count_malformed"
	CrossAislesMalformed Code = "cross_aisles_malformed"
	CustomerUnknown      Code = "customer_unknown"
	ExpiryDiffers        Code = "expiry_differs"
	FieldMissing         Code = "field_missing"
	FlagMalformed        Code = "flag_malformed"
	GTINTaken            Code = "gtin_taken"
	ItemHasMoved         Code = "item_has_moved"
	ItemNotHere          Code = "item_not_here"
	ItemNotStocked       Code = "item_not_stocked"
	ItemUnknown          Code = "item_unknown"
	LimitLow             Code = "limit_low"
	LocationInUse        Code = "location_in_use"
	NameMissing          Code = "name_missing"
	NameTaken            Code = "name_taken"
	NotWhole             Code = "not_whole"
	NumberMalformed      Code = "number_malformed"
	NumberRange          Code = "number_range"
	NumberTooFine        Code = "number_too_fine"
	PaceRange            Code = "pace_range"
	PackMalformed        Code = "pack_malformed"
	PackTwice            Code = "pack_twice"
	PackUsed             Code = "pack_used"
	PackUnknown          Code = "pack_unknown"
	PercentRange         Code = "percent_range"
	OfferForMalformed    Code = "offer_for_malformed"
	PickingBinMalformed  Code = "picking_bin_malformed"
	PriceForMalformed    Code = "price_for_malformed"
	RangeLong            Code = "range_long"
	RangeMalformed       Code = "range_malformed"
	RowsWrong            Code = "rows_wrong"
	StepsClash           Code = "steps_clash"
	SheetUnknown         Code = "sheet_unknown"
	SidesMalformed       Code = "sides_malformed"
	TableEmpty           Code = "table_empty"
	TableLong            Code = "table_long"
	TableMalformed       Code = "table_malformed"
	TableWide            Code = "table_wide"
	TargetLow            Code = "target_low"
	TextLong             Code = "text_long"
	TimeMalformed        Code = "time_malformed"
	TimezoneUnknown      Code = "timezone_unknown"
	TooHeavy             Code = "too_heavy"
	ViewsMany            Code = "views_many"
	ZoneUnknown          Code = "zone_unknown"
)

// Refusals about stock.
const (
	CountBound      Code = "count_bound"
	CountGone       Code = "count_gone"
	CountMine       Code = "count_mine"
	CountOver       Code = "count_over"
	CountReserved   Code = "count_reserved"
	CountWaits      Code = "count_waits"
	KindTwice       Code = "kind_twice"
	LotUnknown      Code = "lot_unknown"
	MovedSince      Code = "moved_since"
	OnSheet         Code = "on_sheet"
	OnTrolley       Code = "on_trolley"
	QuantityGiven   Code = "quantity_given"
	QuantityMissing Code = "quantity_missing"
	Reserved        Code = "reserved"
	SerialInStock   Code = "serial_in_stock"
	SheetEmpty      Code = "sheet_empty"
	SheetOver       Code = "sheet_over"
	SerialNotOurs   Code = "serial_not_ours"
	SerialUnknown   Code = "serial_unknown"
	SerialsWanted   Code = "serials_wanted"
)

// Refusals about purchasing.
const (
	ApprovalMissing      Code = "approval_missing"
	BelowReceived        Code = "below_received"
	InvoiceKnown         Code = "invoice_known"
	InvoiceNumberMissing Code = "invoice_number_missing"
	Invoiced             Code = "invoiced"
	ItemNotBought        Code = "item_not_bought"
	LineItemStands       Code = "line_item_stands"
	LineStands           Code = "line_stands"
	LinesMissing         Code = "lines_missing"
	NotSuggested         Code = "not_suggested"
	NothingShort         Code = "nothing_short"
	NothingWaits         Code = "nothing_waits"
	OrderApproved        Code = "order_approved"
	OrderNotPlaced       Code = "order_not_placed"
	OrderPlaced          Code = "order_placed"
	QuoteExpired         Code = "quote_expired"
	ReferenceUsed        Code = "reference_used"
	PriceNought          Code = "price_nought"
	// FreightHigh asks about freight that costs more than the goods that it brought.
	FreightHigh Code = "freight_high"
	// An invoice that comes before its goods is kept, and matched once.
	GoodsToCome    Code = "goods_to_come"
	InvoiceMatched Code = "invoice_matched"
	NoRequest      Code = "no_request"
	// SupplierAsked is a supplier that another quote of the same request asks already.
	SupplierAsked   Code = "supplier_asked"
	QuoteMissing    Code = "quote_missing"
	QuoteOver       Code = "quote_over"
	SupplierUnknown Code = "supplier_unknown"
)

// Refusals about receiving and inspection.
const (
	BadRange            Code = "bad_range"
	ArrivalStands       Code = "arrival_stands"
	ArrivalDone         Code = "arrival_done"
	DockUnknown         Code = "dock_unknown"
	ExpiryMissing       Code = "expiry_missing"
	GoodsGone           Code = "goods_gone"
	InspectionOver      Code = "inspection_over"
	InvoiceOverReceived Code = "invoice_over_received"
	InvoicePrice        Code = "invoice_price"
	LimitUnknown        Code = "limit_unknown"
	LineClosed          Code = "line_closed"
	LineTwice           Code = "line_twice"
	LineUnknown         Code = "line_unknown"
	LotExpired          Code = "lot_expired"
	LabelWhole          Code = "label_whole"
	LabelWithout        Code = "label_without"
	LotMalformed        Code = "lot_malformed"
	OwnCode             Code = "own_code"
	LotMissing          Code = "lot_missing"
	LotRuleMalformed    Code = "lot_rule_malformed"
	LotTwice            Code = "lot_twice"
	LotUnwanted         Code = "lot_unwanted"
	LotsTotal           Code = "lots_total"
	NothingMoves        Code = "nothing_moves"
	OrderClosed         Code = "order_closed"
	OrderElsewhere      Code = "order_elsewhere"
	OrderMissing        Code = "order_missing"
	OrderNotOpen        Code = "order_not_open"
	OverAllowance       Code = "over_allowance"
	OverInspected       Code = "over_inspected"
	ReasonMissing       Code = "reason_missing"
	ConditionMissing    Code = "condition_missing"
	ConditionUnwanted   Code = "condition_unwanted"
	PaperMissing        Code = "paper_missing"
	PaperUnwanted       Code = "paper_unwanted"
	InvoiceMissing      Code = "invoice_missing"
	OverInvoiced        Code = "over_invoiced"
	CreditKnown         Code = "credit_known"
	CreditDiffers       Code = "credit_differs"
	ReceiptUnknown      Code = "receipt_unknown"
	SerialElsewhere     Code = "serial_elsewhere"
	SerialMalformed     Code = "serial_malformed"
	SerialTwice         Code = "serial_twice"
	SerialUnwanted      Code = "serial_unwanted"
	SerialsMany         Code = "serials_many"
	SerialsTotal        Code = "serials_total"
	SampleOfNothing     Code = "sample_of_nothing"
	ShortLived          Code = "short_lived"
	UndoneAlready       Code = "undone_already"
)

// Refusals about putting away.
const (
	BinFull           Code = "bin_full"
	BinMissing        Code = "bin_missing"
	LocationElsewhere Code = "location_elsewhere"
	NotABin           Code = "not_a_bin"
	NotEnough         Code = "not_enough"
	NotFreeYet        Code = "not_free_yet"
	NotOnTrolley      Code = "not_on_trolley"
	RestockDone       Code = "restock_done"
	SameLocation      Code = "same_location"
	// SameSite is a transfer to the site that it would leave.
	SameSite       Code = "same_site"
	SerialsMissing Code = "serials_missing"
	SpreadTotal    Code = "spread_total"
	WalkBegun      Code = "walk_begun"
	WalkDone       Code = "walk_done"
	WalkNotBegun   Code = "walk_not_begun"
)

// Refusals about sales orders and reservations.
const (
	BelowShipped       Code = "below_shipped"
	CartonLoaded       Code = "carton_loaded"
	CustomerOwes       Code = "customer_owes"
	ItemNotSold        Code = "item_not_sold"
	OrderNoQuote       Code = "order_no_quote"
	OrderNotOnHold     Code = "order_not_on_hold"
	OrderHeld          Code = "order_held"
	CreditLimit        Code = "credit_limit"
	OrderNotReleased   Code = "order_not_released"
	OrderOnTheFloor    Code = "order_on_the_floor"
	OrderOver          Code = "order_over"
	OverWanted         Code = "over_wanted"
	PriceStands        Code = "price_stands"
	ReservationGone    Code = "reservation_gone"
	ReservationOnRound Code = "reservation_on_round"
	TooOld             Code = "too_old"
)

// Refusals about picking.
const (
	BenchFirst      Code = "bench_first"
	CartonMissing   Code = "carton_missing"
	CartonUsed      Code = "carton_used"
	EachTotal       Code = "each_total"
	FloorAbsurd     Code = "floor_absurd"
	FloorAisles     Code = "floor_aisles"
	FloorCross      Code = "floor_cross"
	NotShort        Code = "not_short"
	NothingOpen     Code = "nothing_open"
	NothingTaken    Code = "nothing_taken"
	NothingToTake   Code = "nothing_to_take"
	OrdersMany      Code = "orders_many"
	OtherLotBarred  Code = "other_lot_barred"
	PersonElsewhere Code = "person_elsewhere"
	SiteBarred      Code = "site_barred"
	PersonNoPicker  Code = "person_no_picker"
	RoundDone       Code = "round_done"
	RoundNotWalking Code = "round_not_walking"
	RoundNotYours   Code = "round_not_yours"
	RoundReassigned Code = "round_reassigned"
	RoundStart      Code = "round_start"
	RoundStop       Code = "round_stop"
	RoundStops      Code = "round_stops"
	RoundTaken      Code = "round_taken"
	ScanMissing     Code = "scan_missing"
	SerialGone      Code = "serial_gone"
	StopDone        Code = "stop_done"
	StopUnknown     Code = "stop_unknown"
	StopsLeft       Code = "stops_left"
	StopsMissing    Code = "stops_missing"
	WrongBin        Code = "wrong_bin"
	WrongCarton     Code = "wrong_carton"
	WrongItem       Code = "wrong_item"
	WrongLot        Code = "wrong_lot"
	WrongSerial     Code = "wrong_serial"
)

// Refusals about packing.
const (
	CartonBlank      Code = "carton_blank"
	CartonElsewhere  Code = "carton_elsewhere"
	CartonEmpty      Code = "carton_empty"
	CartonNotStacked Code = "carton_not_stacked"
	CartonStacked    Code = "carton_stacked"
	CartonState      Code = "carton_state"
	LabelCount       Code = "label_count"
	NotChecked       Code = "not_checked"
	NotInCarton      Code = "not_in_carton"
	NothingPacked    Code = "nothing_packed"
	OneTooMany       Code = "one_too_many"
	OtherCarrier     Code = "other_carrier"
	CarrierUnknown   Code = "carrier_unknown"
	// A shipment that is taken back is not invoiced any more.
	ShipmentInvoiced  Code = "shipment_invoiced"
	ShipmentTakenBack Code = "shipment_taken_back"
	PalletUnknown     Code = "pallet_unknown"
	RestockFirst      Code = "restock_first"
	SerialMissing     Code = "serial_missing"
	SizesMissing      Code = "sizes_missing"
	ThingTooLarge     Code = "thing_too_large"
	ThingsMany        Code = "things_many"
	WeightAbsurd      Code = "weight_absurd"
	WeightDiffers     Code = "weight_differs"
)

// Refusals about differences between two sites.
const (
	BadOutcome   Code = "bad_outcome"
	CaseSettled  Code = "case_settled"
	NotInTransit Code = "not_in_transit"
	OverTransit  Code = "over_in_transit"
	SiteUnknown  Code = "site_unknown"
)

// Refusals about recalls.
const (
	GoodsRecalled Code = "goods_recalled"
	NothingHeld   Code = "nothing_held"
	RecallEmpty   Code = "recall_empty"
	RecallOver    Code = "recall_over"
)

// Refusals about returns.
const (
	OverReturnable Code = "over_returnable"
	ReturnLate     Code = "return_late"
	ReturnOpen     Code = "return_open"
	ReturnOver     Code = "return_over"
	ReturnSettled  Code = "return_settled"
	SupplierUnsaid Code = "supplier_unsaid"
)

// Refusals about shipping and invoicing.
const (
	AddressMissing    Code = "address_missing"
	CartonNotLoaded   Code = "carton_not_loaded"
	InvoiceCredited   Code = "invoice_credited"
	InvoiceBarred     Code = "invoice_barred"
	LoadCancelled     Code = "load_cancelled"
	LoadLeft          Code = "load_left"
	NothingLoaded     Code = "nothing_loaded"
	NothingUninvoiced Code = "nothing_uninvoiced"
	OtherLoad         Code = "other_load"
	PartsUnwanted     Code = "parts_unwanted"
)

// Refusals about labels and connections.
const (
	RollRange      Code = "roll_range"
	ScaleSilent    Code = "scale_silent"
	NothingToPrint Code = "nothing_to_print"
)

// Refusals about schedules.
const (
	DayUnknown      Code = "day_unknown"
	EveryShort      Code = "every_short"
	ScheduleRemoved Code = "schedule_removed"
	StretchBackward Code = "stretch_backward"
	TaskBarred      Code = "task_barred"
	TaskUnknown     Code = "task_unknown"
	TimesMissing    Code = "times_missing"
	TimesTwice      Code = "times_twice"
)

// Codes are all codes, as they stand in the description of the API.
var Codes = []Code{
	BodyCompressed, BodyLarge, Busy, CSRF, CursorMalformed, DateMalformed, DayFar, DayPast, HouseBusy, Internal,
	KeyMalformed, KeyReused, LeadDecides, Malformed, NoSuchOperation, NumberAbsurd, OutcomeUnknown,
	PasswordNeeded, ReasonShort, RefersToNothing, Role, NotSignedOn, Stale, TextMalformed,
	TooManyAttempts, TooSlow, DatabaseAway, DiskFull, Unknown, WrongSecret, CheckDigit, GS1Empty, GS1Excluded,
	GS1Repeated, GS1Required, GS1Symbology, GS1UnknownIdentifier, GS1Value, GTINMalformed, GTINUnknown,
	ScanLong, SSCCMalformed, SSCCRange, PriceMalformed, PriceMissing, QuantityAbsurd, QuantityFraction,
	QuantityMalformed, QuantityNegative, QuantityTooFine, QuantityZero, AddressMalformed, BinElsewhere,
	BinUnknown, CellLong, ChoiceUnknown, CodeTaken, ColumnMissing, ColumnTwice, ColumnUnknown,
	CountMalformed, CrossAislesMalformed, CustomerUnknown, ExpiryDiffers, FieldMissing, FlagMalformed,
	GTINTaken, ItemHasMoved, ItemNotHere, ItemNotStocked, ItemUnknown, LimitLow, LocationInUse,
	NameMissing, NameTaken, NotWhole, NumberMalformed, NumberRange, NumberTooFine, PaceRange,
	CarrierUnknown, ShipmentInvoiced, ShipmentTakenBack, PackMalformed, PackTwice, PackUnknown, PercentRange, PickingBinMalformed, PriceForMalformed, RangeLong, RangeMalformed,
	GoodsRecalled, NothingHeld, RecallEmpty, RecallOver, RowsWrong, SheetUnknown, SidesMalformed, StepsClash, TableEmpty, TableLong, TableMalformed, TableWide, TargetLow,
	TextLong, TimeMalformed, TimezoneUnknown, TooHeavy, ViewsMany, NotSuggested, PackUsed, InvoiceCredited, OfferForMalformed, ZoneUnknown, SecretWeak, SecretGiven, LoginTaken, LastLead, PersonOver, HouseFounded, TLSWanted, CountBound, CountGone, CountMine, CountOver, CountReserved, CountWaits, OnSheet, KindTwice,
	LotUnknown, MovedSince, OnTrolley, QuantityGiven, QuantityMissing, Reserved, SheetEmpty, SheetOver, SerialInStock, SerialNotOurs,
	SerialUnknown, SerialsWanted, ApprovalMissing, BelowReceived, InvoiceKnown, InvoiceNumberMissing,
	Invoiced, ItemNotBought, LineItemStands, LineStands, LinesMissing, NothingShort, NothingWaits,
	OrderApproved, OrderNotPlaced, OrderPlaced, QuoteOver, QuoteExpired, ReferenceUsed, PriceNought, FreightHigh, GoodsToCome, InvoiceMatched, NoRequest, SupplierAsked, QuoteMissing, SupplierUnknown, BadRange, ArrivalDone, ArrivalStands,
	DockUnknown, ExpiryMissing, GoodsGone, InspectionOver, InvoiceOverReceived, InvoicePrice,
	LimitUnknown, LineClosed, LineTwice, LineUnknown, LotExpired, LabelWhole, LabelWithout, LotMalformed, OwnCode, LotMissing,
	LotRuleMalformed, LotTwice, LotUnwanted, LotsTotal, NothingMoves, OrderClosed, OrderElsewhere,
	OrderMissing, OrderNotOpen, OverAllowance, OverInspected, ReasonMissing, ConditionMissing, ConditionUnwanted, PaperMissing, PaperUnwanted, InvoiceMissing, OverInvoiced, CreditKnown, CreditDiffers, ReceiptUnknown,
	SerialElsewhere, SerialMalformed, SerialTwice, SerialUnwanted, SerialsMany, SerialsTotal,
	SampleOfNothing, ShortLived, UndoneAlready, BinFull, BinMissing, LocationElsewhere, NotABin, NotEnough,
	NotFreeYet, NotOnTrolley, RestockDone, SameLocation, SameSite, SerialsMissing, SpreadTotal, WalkBegun, WalkDone, WalkNotBegun,
	BelowShipped, CartonLoaded, CreditLimit, CustomerOwes, OrderHeld, ItemNotSold, OrderNoQuote, OrderNotOnHold, OrderNotReleased,
	OrderOnTheFloor, OrderOver, OverWanted, PriceStands, ReservationGone, ReservationOnRound, TooOld,
	BenchFirst, CartonMissing, CartonUsed, EachTotal, FloorAbsurd, FloorAisles, FloorCross, NotShort,
	NothingOpen, NothingTaken, NothingToTake, OrdersMany, OtherLotBarred, PersonElsewhere, SiteBarred, PersonNoPicker, RoundDone,
	RoundNotWalking, RoundNotYours, RoundReassigned, RoundStart, RoundStop, RoundStops, RoundTaken,
	ScanMissing, SerialGone, StopDone, StopUnknown, StopsLeft, StopsMissing, WrongBin, WrongCarton,
	WrongItem, WrongLot, WrongSerial, CartonBlank, CartonElsewhere, CartonEmpty, CartonNotStacked,
	CartonStacked, CartonState, LabelCount, NotChecked, NotInCarton, NothingPacked, OneTooMany,
	BadOutcome, CaseSettled, NotInTransit, OverTransit, SiteUnknown, OverReturnable, ReturnLate, ReturnOpen, ReturnOver, ReturnSettled, SupplierUnsaid,
	OtherCarrier, PalletUnknown, RestockFirst, SerialMissing, SizesMissing, ThingTooLarge, ThingsMany,
	WeightAbsurd, WeightDiffers, AddressMissing, CartonNotLoaded, InvoiceBarred, LoadCancelled, LoadLeft, NothingLoaded,
	NothingUninvoiced, OtherLoad, PartsUnwanted, RollRange, ScaleSilent, NothingToPrint, DayUnknown,
	EveryShort, ScheduleRemoved, StretchBackward, TaskBarred, TaskUnknown, TimesMissing, TimesTwice,
}
