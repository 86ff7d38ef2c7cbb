package gs1

import (
	"fmt"
	"math/rand/v2"
	"os/exec"
	"sort"
	"strings"
	"testing"
	"time"
	"unicode/utf8"

	"lanternrow/internal/test/judge"
)

// now is the day the tests stand on; the reference library's century slides around
// the same decade.
var now = time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)

type verdict struct {
	OK         bool   `json:"ok"`
	Says       string `json:"says"`
	Identifier string `json:"identifier"`
	Raw        string `json:"raw"`
}

// sample makes a value for the identifier that has a fair chance of being right.
func sample(r *rand.Rand, id *Identifier) string {
	var b strings.Builder
	for _, p := range id.parts {
		if p.optional && r.IntN(2) == 0 {
			break
		}
		b.WriteString(samplePart(r, p))
	}
	return b.String()
}

func samplePart(r *rand.Rand, p part) string {
	set := map[byte]string{'N': "0123456789", 'X': "ABCXYZabc019-./_", 'Y': "ABC019-/#", 'Z': "ABCabc019-_"}[p.set]
	letters := func(n int) string {
		var b strings.Builder
		for range n {
			b.WriteByte(set[r.IntN(len(set))])
		}
		return b.String()
	}
	n := p.min + r.IntN(p.max-p.min+1)
	value := letters(n)
	for _, c := range p.checks {
		switch c {
		case "csum":
			value = value[:n-1] + string(CheckDigit(value[:n-1]))
		case "yymmdd", "yymmd0":
			value = fmt.Sprintf("%02d%02d%02d", r.IntN(100), 1+r.IntN(12), r.IntN(30))
		case "yyyymmdd":
			value = fmt.Sprintf("%04d%02d%02d", 1950+r.IntN(100), 1+r.IntN(12), 1+r.IntN(29))
		case "hh":
			value = fmt.Sprintf("%02d", r.IntN(25))
		case "mi", "ss":
			value = fmt.Sprintf("%02d", r.IntN(62))
		case "hhmi":
			value = fmt.Sprintf("%02d%02d", r.IntN(25), r.IntN(61))
		case "iso3166", "iso3166999", "iso3166alpha2", "iso4217", "packagetype", "mediatype":
			list := map[string]string{"iso3166999": "iso3166", "mediatype": "aidcmediatype"}[c]
			if list == "" {
				list = c
			}
			if len(value) >= p.min && r.IntN(6) > 0 {
				value = pick(r, codelists[list])
			}
		case "gcppos1", "gcppos2":
			if p.set != 'N' {
				value = "9521" + value
				value = value[:min(len(value), p.max)]
			}
		case "csumalpha":
			body := value[:min(n-2, 20)]
			sum := 0
			for i := range len(body) {
				sum += strings.IndexByte(set82, body[i]) * primes[len(body)-1-i]
			}
			sum %= 1021
			value = body + string([]byte{set32[sum>>5], set32[sum&31]})
		case "pieceoftotal":
			value = fmt.Sprintf("%02d%02d", r.IntN(5), r.IntN(6))
		case "posinseqslash":
			value = fmt.Sprintf("%d/%d", r.IntN(4), r.IntN(6))
		case "yesno", "iso5218", "winding", "zero":
			value = fmt.Sprint(r.IntN(3))
		case "hyphen":
			value = "-"
		case "iban":
			value = []string{"GB82WEST12345698765432", "DE89370400440532013000", "GB82WEST12345698765431"}[r.IntN(3)]
		case "pcenc":
			value = []string{"Quay%20House", "12 Wirecutter", "50%"}[r.IntN(3)]
			value = strings.ReplaceAll(value, " ", "+")
		case "latitude", "longitude":
			value = fmt.Sprintf("%010d", r.IntN(4_000_000_000))
		}
	}
	return value
}

func pick(r *rand.Rand, set map[string]bool) string {
	var all []string
	for k := range set {
		all = append(all, k)
	}
	sort.Strings(all)
	return all[r.IntN(len(all))]
}

// spoil changes a value a little, which may leave it right.
func spoil(r *rand.Rand, v string) string {
	if v == "" {
		return "0"
	}
	i := r.IntN(len(v))
	switch r.IntN(4) {
	case 0:
		return v[:i] + string("0159AZa-"[r.IntN(8)]) + v[i+1:]
	case 1:
		return v + "1"
	case 2:
		return v[:i] + v[i+1:]
	}
	return v[:i] + "é"[:1] + v[i+1:]
}

// message puts the identifier's value beside whatever it requires.
func message(r *rand.Rand, id *Identifier, value string, partners bool) string {
	text := "(" + id.AI + ")" + value
	seen := map[string]bool{id.AI: true}
	queue := []*Identifier{id}
	for len(queue) > 0 && partners {
		for _, demand := range queue[0].requires {
			for _, pattern := range demand[0] {
				ai := strings.ReplaceAll(pattern, "n", "0")
				if seen[ai] {
					continue
				}
				seen[ai] = true
				partner := identifiers[ai]
				text += "(" + ai + ")" + sample(r, partner)
				queue = append(queue, partner)
			}
		}
		queue = queue[1:]
	}
	return text
}

// TestEveryIdentifierIsJudgedAsTheDictionaryJudges compares our verdict on right
// and spoiled values of every identifier with that of bwip-js 4.11, which carries
// the GS1 Barcode Syntax Dictionary. Coupon fields are held to digits only.
func TestEveryIdentifierIsJudgedAsTheDictionaryJudges(t *testing.T) {
	if Identifiers() != 541 {
		t.Fatalf("the table holds %d identifiers, the dictionary 541", Identifiers())
	}
	node := judge.NewNode(t, "gs1.mjs")
	r := rand.New(rand.NewPCG(14, 15))
	var ais []string
	for ai := range identifiers {
		ais = append(ais, ai)
	}
	sort.Strings(ais)
	right, wrong := 0, 0
	for _, ai := range ais {
		if ai == "8110" || ai == "8112" {
			continue
		}
		for i := range 8 {
			value := sample(r, identifiers[ai])
			if i%2 == 1 {
				value = spoil(r, value)
			}
			text := message(r, identifiers[ai], value, i < 6)
			if strings.ContainsAny(value, "()") || !utf8.ValidString(value) {
				continue
			}
			var v verdict
			node.Ask(t, map[string]any{"text": text}, &v)
			_, err := Parse("scan", text, now)
			if v.OK != (err == nil) {
				t.Errorf("%s: the dictionary says %v %s, we say %v", text, v.OK, v.Says, err)
			}
			if v.OK {
				right++
			} else {
				wrong++
			}
		}
	}
	if right < 1000 || wrong < 1000 {
		t.Errorf("only %d right and %d wrong values were judged", right, wrong)
	}
}

// TestScansComeApartAsAScannerReadsThem draws symbols with bwip-js, reads them with
// zxing-wasm 3.1, and takes the reading apart.
func TestScansComeApartAsAScannerReadsThem(t *testing.T) {
	node := judge.NewNode(t, "gs1.mjs")
	for _, symbol := range []string{"gs1-128", "gs1datamatrix", "gs1qrcode"} {
		for _, text := range []string{
			"(01)09521234543213(10)VH-0933(17)271231", "(01)09521234543213(21)A1/7(10)B(240)x-y", "(00)095212340000004721",
			"(00)095212340000004721(02)09521234543213(37)24(10)L.1", "(01)09521234543213(3103)001250(15)270100",
		} {
			var v verdict
			node.Ask(t, map[string]any{"text": text, "symbol": symbol, "read": true}, &v)
			if !v.OK || v.Raw == "" {
				t.Fatalf("%s %s was not read: %s", symbol, text, v.Says)
			}
			m, err := Parse("scan", v.Identifier+v.Raw, now)
			if err != nil || m.Bracketed() != text {
				t.Errorf("%s %s: read as %q, taken apart as %s (%v)", symbol, text, v.Raw, m.Bracketed(), err)
			}
			raw, err := Write(m.Elements, now)
			back, err2 := Parse("scan", raw, now)
			if err != nil || err2 != nil || len(back.Elements) != len(m.Elements) {
				t.Errorf("%s: written as %q, read back as %s (%v, %v)", text, raw, back.Bracketed(), err, err2)
			}
		}
	}
}

// TestZintGivesASecondOpinion asks zint 2.11 about common mistakes.
func TestZintGivesASecondOpinion(t *testing.T) {
	for text, want := range map[string]bool{
		"[01]09521234543213[10]ABC": true, "[01]09521234543214": false, "[17]261331": false, "[00]095212340000004721": true, "[00]095212340000004722": false,
		"[11]260230": false, "[310a]000001": false, "[421]000123": false, "[01]0952123454321": false,
	} {
		ok := exec.Command("zint", "--barcode=GS1_128", "--werror", "--output="+t.TempDir()+"/x.png",
			"--data="+text).Run() == nil
		m, err := split("scan", strings.NewReplacer("[", "(", "]", ")").Replace(text))
		if err == nil {
			for _, e := range m.Elements {
				if e2 := identifiers[e.AI].check(e.Value, now); e2 != nil {
					err = e2
				}
			}
		}
		if ok != want || (err == nil) != want {
			t.Errorf("%s: zint says %v, we say %v, want %v", text, ok, err, want)
		}
	}
}
