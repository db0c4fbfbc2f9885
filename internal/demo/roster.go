package demo

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"unicode"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// seed makes every run write the same files.
const seed = 1407

// The demo's own numbers of people.
const (
	families = 106
	juniors  = 150
	staff    = 30
	members  = 130
	wardens  = 80
	ownSize  = 640
)

// sharing is the family of five that shares one mailbox.
const sharing = 4

// Set is the files of a demo roster, by name, in the order of loading.
type Set struct {
	Names []string
	Files map[string][]byte
}

// Generate writes the roster of Quillmere as the people there keep it: in
// several files, each with its own habits and its own mistakes. People is
// about how many; 0 is the demo's own size.
func Generate(people int) Set {
	scale := 1.0
	if people > 0 {
		scale = float64(people) / ownSize
	}
	g := &generator{random: rand.New(rand.NewPCG(seed, seed)), mailboxes: map[string]int{}, names: map[string]bool{}}
	times := func(n int) int { return max(1, int(float64(n)*scale)) }
	set := Set{Files: map[string][]byte{}}
	add := func(name string, content []byte) {
		set.Names = append(set.Names, name)
		set.Files[name] = content
	}
	add("families.csv", g.families(times(families), times(juniors)))
	add("coaches-and-office.csv", g.staff(times(staff)))
	add("members.csv", g.members(times(members)))
	add("flood-watch.csv", g.flood(times(wardens), times(len(vehicles))))
	return set
}

// WriteFiles writes the files into a folder.
func WriteFiles(folder string, people int) error {
	if err := os.MkdirAll(folder, 0o750); err != nil {
		return err
	}
	set := Generate(people)
	for _, name := range set.Names {
		if err := os.WriteFile(filepath.Join(folder, name), set.Files[name], 0o640); err != nil {
			return err
		}
	}
	return nil
}

type generator struct {
	random    *rand.Rand
	number    int            // numbers given out so far
	mailboxes map[string]int // how often a local part was taken
	names     map[string]bool
	rowing    [][]string // rows of guardians, some of whom are members too
}

// given picks a given name that, with the family name, nobody has yet, as far
// as there is one.
func (g *generator) given(t tongue, family string) string {
	given := pick(g, t.given)
	for range 30 {
		if !g.names[given+family] {
			break
		}
		given = pick(g, t.given)
	}
	g.names[given+family] = true
	return given
}

func pick[T any](g *generator, list []T) T { return list[g.random.IntN(len(list))] }

func (g *generator) chance(percent int) bool { return g.random.IntN(100) < percent }

func (g *generator) tongue() tongue {
	total := 0
	for _, t := range tongues {
		total += t.weight
	}
	at := g.random.IntN(total)
	for _, t := range tongues {
		if at -= t.weight; at < 0 {
			return t
		}
	}
	return tongues[0]
}

// mobile is a number set aside for fiction, typed in one of the ways in which
// people type them. Above a thousand people they come round again.
func (g *generator) mobile() string {
	n := g.number % 1000
	g.number++
	return typed(n, g.random.IntN(6))
}

func typed(n, habit int) string {
	switch habit {
	case 0:
		return fmt.Sprintf("07700 900%03d", n)
	case 1:
		return fmt.Sprintf("07700900%03d", n)
	case 2:
		return fmt.Sprintf("0044 7700 900 %03d", n)
	case 3:
		return fmt.Sprintf("(07700) 900-%03d", n)
	default:
		return fmt.Sprintf("+44 7700 900%03d", n)
	}
}

// latin keeps the letters a mailbox can have; names in other scripts give "".
var latin = transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC)

// unmarked writes a name without its marks.
func unmarked(name string) string {
	plain, _, err := transform.String(latin, strings.NewReplacer("ł", "l", "Ł", "L", "đ", "d", "Đ", "D").Replace(name))
	if err != nil {
		return name
	}
	return plain
}

func (g *generator) mailbox(given, family string) string {
	plain, _, err := transform.String(latin, strings.ToLower(given+"."+family))
	if err != nil {
		plain = ""
	}
	plain = strings.NewReplacer("ł", "l", "đ", "d", "'", "", " ", "").Replace(plain)
	plain = strings.Map(func(r rune) rune {
		if r == '.' || r == '-' || 'a' <= r && r <= 'z' {
			return r
		}
		return -1
	}, plain)
	plain = strings.Trim(plain, ".-")
	if len(plain) < 3 {
		plain = "family"
	}
	g.mailboxes[plain]++
	if n := g.mailboxes[plain]; n > 1 {
		plain = fmt.Sprintf("%s%d", plain, n)
	}
	return plain + "@" + pick(g, []string{"example.org", "example.org", "quillmere.example", "post.example"})
}

func write(rows [][]string, comma rune) []byte {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.Comma, w.UseCRLF = comma, true
	if err := w.WriteAll(rows); err != nil {
		panic(err) // a buffer takes everything
	}
	return b.Bytes()
}

// families are juniors with their guardians, in one file. A family of five
// shares one mailbox, some guardians live apart, one must not be contacted.
func (g *generator) families(count, juniors int) []byte {
	rows := [][]string{{"Id", "First name", "Last name", "Role", "Language", "Mobile", "Home phone", "Email", "Squads",
		"Guardian ids", "Barred guardians", "Opted out of", "Status", "Swim test", "Membership form", "Unit", "Born on", "Capsize drill", "Sculling level"}}
	child := 0
	for f := range count {
		t := g.tongue()
		family := pick(g, t.family)
		shared := g.mailbox("", family)
		guardians := g.guardians(f, t, family, shared)
		rows = append(rows, guardians...)
		children := (juniors-child)/(count-f) + g.random.IntN(2)
		if f == sharing {
			children = 3
		}
		for ; children > 0 && child < juniors; children-- {
			child++
			rows = append(rows, g.junior(f, child, t, family, shared, guardians))
		}
	}
	return write(rows, ',')
}

func (g *generator) guardians(f int, t tongue, family, shared string) [][]string {
	count := 2
	if f%7 == 3 {
		count = 3
	} else if f%9 == 5 {
		count = 1
	}
	var rows [][]string
	for n := range count {
		name := family
		if n == 2 || g.chance(12) {
			name = pick(g, t.family) // lives apart
		}
		given := g.given(t, name)
		row := []string{
			fmt.Sprintf("G%03d%c", f+1, 'a'+n), given, name, "guardian", t.tag, "", "", "", "", "", "", "", "", "",
			pick(g, []string{"returned", "returned", "outstanding"}), "Rowing > Juniors", "", "", "",
		}
		if f%37 == 21 {
			row[4] = "" // nobody asked
		}
		g.reach(row, given, name)
		if f == sharing {
			row[5], row[7] = "", shared
		}
		if g.chance(3) {
			row[11] = "routine"
		}
		if t.tag == "en" || t.tag == "pl" || t.tag == "vi" {
			g.rowing = append(g.rowing, row)
		}
		rows = append(rows, row)
	}
	return rows
}

// reach fills mobile, home phone and email as a real roster has them.
func (g *generator) reach(row []string, given, name string) {
	switch at := g.random.IntN(100); {
	case at < 3: // nothing on file
	case at < 10:
		row[6] = g.mobile() // a landline only
	case at < 24:
		row[5] = g.mobile()
	case at < 44:
		row[7] = g.mailbox(given, name)
	case at < 52:
		row[5] = g.mobile()
		row[7] = g.mailbox(given, name) + "; " + g.mailbox(given, name)
	default:
		row[5] = g.mobile()
		row[7] = g.mailbox(given, name)
	}
	if row[5] != "" && g.chance(8) {
		row[6] = g.mobile()
	}
}

func (g *generator) junior(f, child int, t tongue, family, shared string, guardians [][]string) []string {
	var ids []string
	for _, guardian := range guardians {
		ids = append(ids, guardian[0])
	}
	barred := ""
	switch {
	case f == 10 && len(ids) > 1:
		barred, ids = ids[len(ids)-1], ids[:len(ids)-1]
	case f == 17:
		ids = []string{"G999a"} // a slip: nobody has this id
	case f == 31:
		ids = nil
	}
	row := []string{fmt.Sprintf("J%03d", child), g.given(t, family), family, "junior", t.tag, "", "", "",
		"Junior squads > " + squads[(child-1)%len(squads)], strings.Join(ids, ";"), barred, "", "", pick(g, swimTest), "", "Rowing > Juniors", g.birthday(child), "", ""}
	if g.chance(70) {
		row[17] = fmt.Sprintf("2026-%02d-%02d", 4+g.random.IntN(6), 1+g.random.IntN(28))
		row[18] = fmt.Sprint(1 + g.random.IntN(5))
	}
	if (child-1)%len(squads) == len(squads)-1 && g.chance(60) { // the oldest have phones
		row[5] = g.mobile()
	}
	if f == sharing {
		row[7] = shared
	}
	if g.chance(2) {
		row[12] = "away"
	}
	return row
}

// birthday is a day that fits the squad of a junior.
func (g *generator) birthday(child int) string {
	ages := []int{11, 12, 13, 15, 17}
	year := 2026 - ages[(child-1)%len(squads)]
	return fmt.Sprintf("%d-%02d-%02d", year, 1+g.random.IntN(12), 1+g.random.IntN(28))
}

// staff is kept by the office in one sheet with full names.
func (g *generator) staff(count int) []byte {
	rows := [][]string{
		{"Member no", "Name", "Role", "Preferred language", "Mobile", "E-mail", "Group", "Time zone", "Unit"},
	}
	first := []string{
		"C001", "Naya Osei", "coach", "English", typed(999, 4), "naya.osei@quillmere.example", "Coaches", "", "Rowing",
	}
	rows = append(rows, first)
	for n := 1; n < count; n++ {
		t := g.tongue()
		family := pick(g, t.family)
		given := g.given(t, family)
		duty := boathouse[n%len(boathouse)]
		role, group := "coach", "Coaches"
		if duty != "Coach" && duty != "Head coach" {
			role, group = "office", "Boathouse and office"
		}
		row := []string{fmt.Sprintf("C%03d", n+1), given + " " + family, role, t.tag, "", "", group, "", "Rowing"}
		if !g.chance(6) {
			row[4] = g.mobile()
		}
		if !g.chance(10) {
			row[5] = g.mailbox(given, family)
		}
		if n == 9 {
			row[7] = "America/Halifax"
		}
		rows = append(rows, row)
	}
	return write(rows, ',')
}

// members come from an old program: semicolons and Windows-1252, which has no
// place for some names, so that they were typed without their marks.
func (g *generator) members(count int) []byte {
	rows := [][]string{
		{"Number", "Surname", "Forename", "Type", "Lang", "Telephone", "Email address", "Team", "Opted out", "Remarks", "Unit"},
	}
	for n := range count {
		t := g.tongue()
		for t.tag == "ar" || t.tag == "uk" || t.tag == "zh-Hans" || t.tag == "vi" || t.tag == "pl" {
			t = g.tongue()
		}
		family := pick(g, t.family)
		given := g.given(t, family)
		if n == 40 || n == 41 { // two people with the same name
			given, family = "Wren", "Larkham"
		}
		row := []string{
			fmt.Sprintf("M%04d", n+1), family, given, "member", t.tag, "", "", "Adult members > " + crews[n%len(crews)], "", "",
			"Rowing > Adults",
		}
		if !g.chance(15) {
			row[5] = g.mobile()
		}
		if !g.chance(9) {
			row[6] = g.mailbox(given, family)
		}
		if g.chance(4) {
			row[8] = "routine"
		}
		if n%26 == 7 && len(g.rowing) > n { // a guardian who rows, whom the old program wrote its own way
			from := g.rowing[n]
			row[1], row[2], row[4], row[5], row[6] = unmarked(from[2]), unmarked(from[1]), from[4], from[5], from[7]
		}
		switch n {
		case 22:
			row[5] = "ask Hugo" // no number at all
		case 57:
			row[4] = "river"
		case 80:
			row[9] = "=1+1"
		}
		rows = append(rows, row)
	}
	// The old program wrote one member twice.
	rows = append(rows, append([]string(nil), rows[min(12, len(rows)-1)]...))
	encoded, err := charmap.Windows1252.NewEncoder().Bytes(write(rows, ';'))
	if err != nil {
		panic(err) // the names above all have a place in it
	}
	return encoded
}

// flood is the volunteers' own list, tabs between cells and notes over several
// lines, with the boats and vans that carry a phone.
func (g *generator) flood(wardens, carried int) []byte {
	rows := [][]string{
		{"Ref", "Given name", "Family name", "Role", "Language", "Mobile", "Landline", "Email", "Groups", "Notes", "Station", "Key to the sluice"},
	}
	for n := range wardens {
		t := g.tongue()
		family := pick(g, t.family)
		given := g.given(t, family)
		row := []string{
			fmt.Sprintf("W%03d", n+1), given, family, "warden", t.tag, "", "", "",
			"Flood watch > " + stretches[n%len(stretches)], "", "Flood watch", "",
		}
		g.reach(row, given, family)
		if n%11 == 0 {
			row[9] = "Knows the old weir.\nNot on Tuesdays."
		}
		if n%9 == 2 {
			row[11] = "yes"
		}
		rows = append(rows, row)
	}
	for n := range carried {
		row := []string{
			fmt.Sprintf("V%02d", n+1), vehicles[n%len(vehicles)], "", "driver", "en", g.mobile(), "", "",
			"Flood watch > Boats and vans", "", "Flood watch", "",
		}
		if n >= len(vehicles) {
			row[1] = fmt.Sprintf("%s %d", row[1], n/len(vehicles)+1)
		}
		if n == 8 {
			row[5] = "" // the pump trailer has no phone
		}
		rows = append(rows, row)
	}
	return write(rows, '\t')
}
