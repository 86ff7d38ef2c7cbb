package demo

import "lanternrow/internal/people"

// item is one line of the made-up catalog of Wick & Gantry.
type item struct {
	sku, text, unit, tracking, handling, supplier, pack string
	kg, litres, cost, pace                              float64
	holds, life                                         int
}

const (
	none      = "none"
	lot       = "lot"
	lotOut    = "lot_out"
	expiry    = "lot_expiry"
	serial    = "serial"
	serialOut = "serial_out"
)

// goods are the items. Suppliers: BRO optics, MIS fluids, TAR rigging, PEN cable and
// power, HAL cloth and tape.
var goods = []item{
	{"SP-150", "Profile spot 150 W", "each", serial, "", "BRO", "carton", 7.8, 24, 412, 0.3, 2, 0},
	{"SP-300", "Profile spot 300 W", "each", serial, "", "BRO", "carton", 9.4, 31, 589, 0.2, 2, 0},
	{"FR-200", "Fresnel 200 W", "each", serial, "", "BRO", "carton", 6.1, 22, 338, 0.3, 2, 0},
	{"FL-090", "Flood, asymmetric 90 W", "each", none, "", "BRO", "carton", 4.2, 15, 204, 0.2, 4, 0},
	{"LN-019", "Lens tube 19 degrees", "each", none, "", "BRO", "carton", 1.3, 4.1, 96, 0.4, 6, 0},
	{"LN-026", "Lens tube 26 degrees", "each", none, "", "BRO", "carton", 1.2, 3.9, 92, 0.5, 6, 0},
	{"LN-036", "Lens tube 36 degrees", "each", none, "", "BRO", "carton", 1.2, 3.8, 92, 0.4, 6, 0},
	{"IR-100", "Iris for profile spot", "each", none, "", "BRO", "box", 0.2, 0.6, 38, 0.3, 12, 0},
	{"GB-A01", "Pattern holder, size A", "each", none, "", "BRO", "box", 0.1, 0.2, 9.5, 0.6, 24, 0},
	{"GB-B01", "Pattern holder, size B", "each", none, "", "BRO", "box", 0.1, 0.2, 9.5, 0.5, 24, 0},
	{"BD-185", "Barn doors 185 mm", "each", none, "", "BRO", "carton", 0.9, 3.2, 44, 0.3, 8, 0},
	{"CF-185", "Colour frame 185 mm", "each", none, "", "BRO", "box", 0.2, 0.5, 6.2, 0.6, 24, 0},
	{"FG-500", "Fog fluid 5 L", "canister", expiry, "fluid", "MIS", "case", 5.4, 6, 31, 0.7, 4, 60},
	{"HZ-500", "Haze fluid 5 L", "canister", expiry, "fluid", "MIS", "case", 5.3, 6, 42, 0.9, 4, 60},
	{"HZ-250", "Haze fluid 2.5 L, low residue", "canister", expiry, "fluid", "MIS", "case", 2.7, 3.2, 29, 0.6, 6, 60},
	{"SN-500", "Snow fluid 5 L", "canister", expiry, "fluid", "MIS", "case", 5.2, 6, 27, 0.3, 4, 60},
	{"CL-100", "Cleaning fluid 1 L", "bottle", expiry, "fluid", "MIS", "case", 1.1, 1.4, 12, 0.4, 12, 30},
	{"HP-001", "Fluid pump, spare", "each", lot, "", "MIS", "box", 0.6, 1.2, 54, 0.2, 6, 0},
	{"DH-100", "Drain hose 1 m", "each", none, "", "MIS", "bag", 0.2, 0.9, 4.8, 0.2, 10, 0},
	{"FM-700", "Fog machine 700 W", "each", serial, "", "MIS", "carton", 6.5, 21, 189, 0.2, 1, 0},
	{"HM-400", "Haze machine 400 W", "each", serial, "", "MIS", "carton", 9.9, 34, 645, 0.1, 1, 0},
	{"SB-600", "Safety bond 600 mm, 15 kg", "each", lot, "", "TAR", "box", 0.12, 0.2, 5.4, 1, 25, 0},
	{"SB-900", "Safety bond 900 mm, 36 kg", "each", lot, "", "TAR", "box", 0.2, 0.3, 7.9, 0.8, 25, 0},
	{"HC-050", "Hook clamp 50 mm", "each", lot, "", "TAR", "box", 0.45, 0.7, 8.6, 1, 12, 0},
	{"HC-038", "Hook clamp 38 mm", "each", lot, "", "TAR", "box", 0.38, 0.6, 8.1, 0.6, 12, 0},
	{"DC-050", "Double clamp, swivel 50 mm", "each", lot, "", "TAR", "box", 0.9, 1.1, 17, 0.5, 8, 0},
	{"SH-060", "Bow shackle 6 mm", "each", lot, "", "TAR", "bag", 0.05, 0.05, 1.9, 0.7, 50, 0},
	{"SH-100", "Bow shackle 10 mm", "each", lot, "", "TAR", "bag", 0.15, 0.1, 3.2, 0.5, 25, 0},
	{"RS-200", "Round sling 2 m, 1 t", "each", lot, "", "TAR", "bag", 0.7, 1.6, 14, 0.4, 10, 0},
	{"WS-100", "Wire rope sling 1 m", "each", lot, "", "TAR", "bag", 0.5, 0.8, 11, 0.4, 10, 0},
	{"TB-200", "Aluminium tube 2 m, 50 mm", "each", none, "heavy", "TAR", "bundle", 3.2, 4.2, 36, 0.4, 6, 0},
	{"SW-130", "Stage weight 13 kg", "each", none, "heavy", "TAR", "pallet", 13, 1.8, 24, 0.5, 40, 0},
	{"BR-100", "Stage brace, telescopic", "each", none, "heavy", "TAR", "bundle", 3.9, 7, 58, 0.3, 4, 0},
	{"CB-010", "Power cable 16 A, 1 m", "each", none, "", "PEN", "box", 0.5, 0.9, 13, 0.6, 10, 0},
	{"CB-025", "Power cable 16 A, 2.5 m", "each", none, "", "PEN", "box", 0.9, 1.5, 17, 0.7, 10, 0},
	{"CB-050", "Power cable 16 A, 5 m", "each", none, "", "PEN", "box", 1.6, 2.6, 24, 0.9, 5, 0},
	{"CB-100", "Power cable 16 A, 10 m", "each", none, "", "PEN", "box", 3, 4.8, 39, 0.8, 5, 0},
	{"DX-015", "Data cable 5-pin, 1.5 m", "each", none, "", "PEN", "box", 0.2, 0.4, 11, 0.8, 20, 0},
	{"DX-050", "Data cable 5-pin, 5 m", "each", none, "", "PEN", "box", 0.4, 0.9, 17, 0.9, 10, 0},
	{"DX-100", "Data cable 5-pin, 10 m", "each", none, "", "PEN", "box", 0.8, 1.7, 26, 0.6, 10, 0},
	{"DT-005", "Data terminator 5-pin", "each", none, "", "PEN", "bag", 0.03, 0.05, 4.4, 0.6, 20, 0},
	{"DM-012", "Dimmer pack, 12 ways", "each", serial, "heavy", "PEN", "carton", 14.5, 38, 980, 0.1, 1, 0},
	{"DM-004", "Dimmer bar, 4 ways", "each", serial, "", "PEN", "carton", 3.9, 9, 248, 0.2, 2, 0},
	{"SL-001", "Spider box 32 A", "each", lotOut, "heavy", "PEN", "carton", 8.8, 20, 310, 0.2, 1, 0},
	{"BT-0AA", "Battery AA", "each", lot, "", "PEN", "box", 0.024, 0.01, 0.42, 1, 40, 0},
	{"BT-09V", "Battery 9 V", "each", lot, "", "PEN", "box", 0.046, 0.03, 1.6, 0.9, 20, 0},
	{"HS-001", "Headset, single ear", "each", serialOut, "", "PEN", "carton", 0.4, 2.4, 118, 0.3, 4, 0},
	{"HS-002", "Headset, double ear", "each", serialOut, "", "PEN", "carton", 0.5, 3, 149, 0.2, 4, 0},
	{"BP-100", "Belt pack, one channel", "each", serialOut, "", "PEN", "carton", 0.6, 1.4, 176, 0.2, 4, 0},
	{"TP-B50", "Gaffer tape black 50 mm", "roll", none, "", "HAL", "case", 0.6, 1.1, 9.8, 1, 24, 0},
	{"TP-W50", "Gaffer tape white 50 mm", "roll", none, "", "HAL", "case", 0.6, 1.1, 9.8, 0.7, 24, 0},
	{"TP-G24", "Spike tape green 24 mm", "roll", none, "", "HAL", "case", 0.2, 0.4, 5.1, 0.6, 48, 0},
	{"TP-Y24", "Spike tape yellow 24 mm", "roll", none, "", "HAL", "case", 0.2, 0.4, 5.1, 0.6, 48, 0},
	{"TP-HAZ", "Hazard tape 50 mm", "roll", none, "", "HAL", "case", 0.3, 0.6, 6.3, 0.4, 24, 0},
	{"FT-025", "Foil tape 25 mm, heatproof", "roll", none, "", "HAL", "case", 0.3, 0.4, 13, 0.4, 24, 0},
	{"CL-BLK", "Blackout cloth, black, 3 m wide", "metre", lot, "", "HAL", "roll", 0.9, 2.4, 11.5, 0.5, 50, 0},
	{"CL-GRY", "Serge cloth, grey, 3 m wide", "metre", lot, "", "HAL", "roll", 1.0, 2.6, 12.2, 0.3, 50, 0},
	{"CL-GZE", "Stage gauze, white, 4 m wide", "metre", lot, "", "HAL", "roll", 0.3, 0.8, 15.4, 0.2, 25, 0},
	{"TL-CRD", "Tie line, black, waxed", "metre", none, "", "HAL", "reel", 0.006, 0.02, 0.22, 0.8, 100, 0},
	{"GL-202", "Colour sheet, half blue", "sheet", none, "", "HAL", "tube", 0.08, 0.2, 7.4, 0.7, 10, 0},
	{"GL-106", "Colour sheet, primary red", "sheet", none, "", "HAL", "tube", 0.08, 0.2, 7.4, 0.5, 10, 0},
	{"GL-216", "Diffusion sheet, white", "sheet", none, "", "HAL", "tube", 0.08, 0.2, 7.4, 0.6, 10, 0},
}

// oversize is what no bin of the house takes: it stands on the dock until somebody finds
// a location for it. It is neither bought nor sold day by day.
var oversize = item{"TR-300", "Box truss 3 m", "each", none, "long", "TAR", "each", 14, 120, 240, 0.1, 1, 0}

// stocked are all items of the house.
func stocked() []item { return append(goods[:len(goods):len(goods)], oversize) }

// party is a supplier or a customer, all made up.
type party struct{ code, name, address, contact, carrier string }

var suppliers = []party{
	{"BRO", "Brindlewick Optics", "4 Lathe Yard, Emberford", "Odile Farrant", ""},
	{"MIS", "Mistral Hollow Fluids", "Unit 9, Copperas Lane, Saltby Quay", "Ned Quillan", ""},
	{"TAR", "Tarn & Tackle Rigging", "The Ropewalk, Fellmouth", "Bryony Askew", ""},
	{"PEN", "Pennard Cable Works", "12 Wirecutter Row, Dunmarrow", "Ivo Stannage", ""},
	{"HAL", "Halloway Cloth & Tape", "Selvedge Mill, Wendle", "Marit Crane", ""},
}

var customers = []party{
	{"LYR", "The Lyrebird Theatre", "1 Proscenium Street, Emberford", "Tamsin Oake", "Northgate Vans"},
	{"COP", "Copper Lane Playhouse", "77 Copper Lane, Wendle", "Rufus Idle", "Northgate Vans"},
	{"OLD", "Old Granary Arts", "The Granary, Fellmouth", "Hester Vane", "Brook & Daughter Carriers"},
	{"HAR", "Harbour Opera Company", "Pier 3, Saltby Quay", "Leopold Marsh", "Brook & Daughter Carriers"},
	{"WHT", "Whitethorn School Hall", "Whitethorn Road, Dunmarrow", "Agnes Pell", "Northgate Vans"},
	{"TNT", "Tin Tabernacle Players", "Chapel Rise, Otterby", "Cyril Nunn", "Collected"},
	{"MOO", "Moonrake Touring", "Depot 2, Emberford", "Fenella Strake", "Brook & Daughter Carriers"},
	{"BEL", "Belltower Dance House", "9 Ringers Court, Wendle", "Jonah Swift", "Northgate Vans"},
	{"FER", "Ferry Street Studios", "Ferry Street, Saltby Quay", "Nell Arkwright", "Collected"},
	{"GAS", "The Gasworks Stage", "Retort Road, Fellmouth", "Basil Thorne", "Northgate Vans"},
}

// worker is somebody who can sign on to the demo.
type worker struct {
	name, login, badge string
	roles              people.Roles
}

var workers = []worker{
	{"Ines Calloway", "lead", "B-001", people.Roles{people.Lead}},
	{"Tom Harrow", "receiver", "B-002", people.Roles{people.Receiver}},
	{"Priya Venn", "picker", "B-003", people.Roles{people.Picker}},
	{"Oskar Lund", "picker2", "B-004", people.Roles{people.Picker}},
	{"Wilma Ashby", "office", "B-005", people.Roles{people.Office, people.Accounts}},
	{"Colm Reddy", "viewer", "B-006", people.Roles{people.Viewer}},
}

// Password and PIN of everybody in the demo.
const (
	Password = "lantern"
	PIN      = "2468"
)

// SignIn says how to sign on to the demo.
const SignIn = `Sign on as lead, receiver, picker, picker2, office or viewer, with the password ` + Password + `.
On a handheld: /hand, badge B-003, PIN ` + PIN + `.
`
