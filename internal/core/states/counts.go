package states

// CountRequest is the state of a request to count an item in a bin.
type CountRequest string

// The states of a count request: a count of the bin settles it.
const (
	CountRequested CountRequest = "requested"
	CountSettled   CountRequest = "settled"
)

// Count is the state of a count.
type Count string

// The states of a count: one that differs waits, counted, until somebody decides; or, beyond its allowance, until
// another person has counted again, and then it stands repeated behind that one.
const (
	CountCounted   Count = "counted"
	CountRecount   Count = "recount"
	CountRepeated  Count = "repeated"
	CountAccepted  Count = "settled"
	CountWithdrawn Count = "withdrawn"
	CountTakenBack Count = "taken_back"
)

// CountSheet is the state of a count sheet.
type CountSheet string

// The states of a count sheet: all of it is counted, or it was closed before.
const (
	SheetOpen    CountSheet = "open"
	SheetCounted CountSheet = "counted"
	SheetClosed  CountSheet = "closed"
)

// SheetLine is the state of a line of a count sheet.
type SheetLine string

// The states of a line: it was left where its sheet was closed before.
const (
	SheetLineOpen    SheetLine = "open"
	SheetLineCounted SheetLine = "counted"
	SheetLineLeft    SheetLine = "left"
)
