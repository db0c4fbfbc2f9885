package exchange

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"mime/quotedprintable"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/emersion/go-vcard"
	"golang.org/x/text/encoding/charmap"

	"upperlantern/internal/core/intake"
)

// ErrVCard means that a file begins like a vCard file and has no card.
var ErrVCard = errors.New("the file has no card that can be read")

// extension begins the names of properties for what vCard has none for.
const extension = "X-LANTERN-"

// Escaped separators are kept apart from real ones while a card is taken to pieces.
const (
	comma     = "\ue000"
	semicolon = "\ue001"
	backslash = "\ue002"
)

var (
	hide = strings.NewReplacer("\\\\", backslash, "\\,", comma, "\\;", semicolon, comma, "", semicolon, "", backslash, "")
	show = strings.NewReplacer(comma, ",", semicolon, ";", backslash, "\\")
)

// ReadVCards reads the cards of a file (RFC 6350, RFC 2426), with what older
// programs still write in quoted-printable. Photos, sounds and keys are left off.
func ReadVCards(file []byte) (*Table, error) {
	text := string(bytes.TrimPrefix(file, utf8BOM))
	if !utf8.ValidString(text) {
		decoded, err := charmap.Windows1252.NewDecoder().String(text)
		if err != nil {
			return nil, ErrNotCSV
		}
		text = decoded
	}
	t := &Table{Form: "vCard"}
	for _, c := range cards(text) {
		card, err := vcard.NewDecoder(strings.NewReader(c.text)).Decode()
		if err != nil {
			t.Unread = append(t.Unread, intake.Issue{
				Place: intake.Place{Line: c.line}, Reason: "the card cannot be read: it has no end",
			})
			continue
		}
		if err := t.addCard(c.line, card); err != nil {
			return nil, err
		}
	}
	if len(t.Rows)+len(t.Unread) == 0 {
		return nil, ErrVCard
	}
	if len(t.Rows)*len(t.Header) > mostCells {
		return nil, fmt.Errorf("%w: it has more than %d cells (rows × columns)", ErrTooMuch, mostCells)
	}
	for i, row := range t.Rows { // cards before a heading was known
		for len(row.Cells) < len(t.Header) {
			row.Cells = append(row.Cells, "")
		}
		t.Rows[i] = row
	}
	return t, nil
}

type cardText struct {
	line int
	text string
}

// cards cuts a file into cards of unfolded, plain lines.
func cards(text string) []cardText {
	var list []cardText
	var b strings.Builder
	begins := 0
	end := func() {
		if begins > 0 {
			list = append(list, cardText{begins, b.String()})
		}
		b.Reset()
		begins = 0
	}
	for _, l := range unfold(text) {
		name, _, _ := strings.Cut(strings.ToUpper(l.text), ":")
		if strings.HasPrefix(name, "BEGIN") {
			end()
			begins = l.line
		}
		if begins == 0 || isHeavy(name) {
			continue
		}
		b.WriteString(hide.Replace(typed(plain(l.text))) + "\r\n")
		if strings.HasPrefix(name, "END") {
			end()
		}
	}
	end()
	return list
}

// isHeavy reports whether a property is a picture, a sound or a key.
func isHeavy(name string) bool {
	name, _, _ = strings.Cut(name, ";")
	if _, inner, grouped := strings.Cut(name, "."); grouped {
		name = inner
	}
	return slices.Contains([]string{"PHOTO", "LOGO", "SOUND", "KEY"}, name)
}

// unfold joins folded lines (RFC 6350 §3.2), and lines of quoted-printable
// that end in a soft break.
func unfold(text string) []cardText {
	var list []cardText
	soft := false
	for n, line := range strings.Split(text, "\n") {
		line = strings.TrimSuffix(line, "\r")
		folded := len(line) > 0 && (line[0] == ' ' || line[0] == '\t')
		switch {
		case len(list) > 0 && soft:
			list[len(list)-1].text += "\r\n" + line
		case len(list) > 0 && folded:
			list[len(list)-1].text += line[1:]
		case line != "":
			list = append(list, cardText{n + 1, line})
		}
		soft = len(list) > 0 && isQuotedPrintable(list[len(list)-1].text) && strings.HasSuffix(line, "=")
	}
	return list
}

func isQuotedPrintable(line string) bool {
	head, _, _ := strings.Cut(strings.ToUpper(line), ":")
	return strings.Contains(head, "QUOTED-PRINTABLE")
}

// plain decodes a line of quoted-printable; other lines stay as they are.
func plain(line string) string {
	if !isQuotedPrintable(line) {
		return line
	}
	head, value, _ := strings.Cut(line, ":")
	decoded, err := io.ReadAll(quotedprintable.NewReader(strings.NewReader(value)))
	if err != nil {
		return head + ":" + value
	}
	text := string(decoded)
	if !utf8.Valid(decoded) {
		if latin, err := charmap.Windows1252.NewDecoder().String(text); err == nil {
			text = latin
		}
	}
	text = strings.NewReplacer("\r\n", "\\n", "\n", "\\n", "\r", "\\n").Replace(text)
	return head + ":" + text
}

// typed gives the bare parameters of vCard 2.1, such as TEL;CELL:, their name.
func typed(line string) string {
	head, value, found := strings.Cut(line, ":")
	if !found || strings.Contains(head, `"`) {
		return line
	}
	parts := strings.Split(head, ";")
	for i, p := range parts[1:] {
		if !strings.Contains(p, "=") {
			parts[i+1] = "TYPE=" + p
		}
	}
	return strings.Join(parts, ";") + ":" + value
}

// cell returns where the cells of a meaning stand, making room for them.
func (t *Table) cell(row []string, meaning intake.Column, value string) []string {
	if value = strings.TrimSpace(show.Replace(value)); value == "" {
		return row
	}
	at := slices.Index(t.Header, string(meaning))
	if at < 0 {
		at = len(t.Header)
		t.Header = append(t.Header, string(meaning))
	}
	for len(row) <= at {
		row = append(row, "")
	}
	if row[at] != "" {
		value = row[at] + "; " + value
	}
	row[at] = value
	return row
}

func (t *Table) addCard(line int, card vcard.Card) error {
	var row []string
	add := func(meaning intake.Column, value string) {
		if len(t.Header) <= mostColumns {
			row = t.cell(row, meaning, value)
		}
	}
	given, family := "", ""
	if n := card.Name(); n != nil {
		given, family = strings.TrimSpace(n.GivenName+" "+n.AdditionalName), n.FamilyName
	}
	if given+family == "" {
		add(intake.FullName, card.Value(vcard.FieldFormattedName))
	}
	add(intake.GivenName, given)
	add(intake.FamilyName, family)
	for _, property := range standardProperties {
		for _, value := range card.Values(property.name) {
			switch {
			case property.name == vcard.FieldCategories:
				value = strings.ReplaceAll(value, ",", ";")
			case property.name == vcard.FieldBirthday && strings.HasPrefix(value, "--"):
				continue // a day without a year
			case property.name == vcard.FieldEmail && len(value) > 7 && strings.EqualFold(value[:7], "mailto:"):
				value = value[7:]
			case property.name == vcard.FieldUID:
				value = strings.TrimPrefix(value, "urn:uuid:")
			}
			add(property.meaning, value)
		}
	}
	for _, tel := range card[vcard.FieldTelephone] {
		if onlyFax(tel.Params.Types()) {
			continue
		}
		// The semicolon of an extension (RFC 3966) is none between numbers.
		value := strings.ReplaceAll(show.Replace(tel.Value), ";ext=", " ext. ")
		add(telephone(tel), strings.TrimPrefix(strings.TrimPrefix(value, "tel:"), "TEL:"))
	}
	for _, name := range slices.Sorted(extensions(card)) {
		meaning := strings.ToLower(strings.ReplaceAll(strings.TrimPrefix(name, extension), "-", " "))
		for _, value := range card.Values(name) {
			if attribute, text, ok := strings.Cut(value, "="); ok && meaning == "attribute" {
				add(intake.Column(show.Replace(attribute)), text)
				continue
			}
			add(intake.Column(meaning), value)
		}
	}
	t.Rows = append(t.Rows, intake.Row{Place: intake.Place{Line: line}, Cells: row})
	return t.spend(len(t.Header), row)
}

func extensions(card vcard.Card) func(yield func(string) bool) {
	return func(yield func(string) bool) {
		for name := range card {
			if strings.HasPrefix(name, extension) && !yield(name) {
				return
			}
		}
	}
}

// standardProperties are those that mean one of our columns, in the order in
// which their columns stand.
var standardProperties = []struct {
	name    string
	meaning intake.Column
}{
	{vcard.FieldUID, intake.ExternalID}, {vcard.FieldNickname, intake.KnownAs}, {vcard.FieldEmail, intake.Email},
	{vcard.FieldLanguage, intake.Language}, {vcard.FieldBirthday, intake.BornOn}, {vcard.FieldTimezone, intake.TimeZone},
	{vcard.FieldCategories, intake.Groups}, {vcard.FieldNote, intake.Notes},
}

// onlyFax reports whether a number takes neither calls nor texts.
func onlyFax(types []string) bool {
	return slices.Contains(types, "fax") && !slices.Contains(types, "voice") && !slices.Contains(types, "cell")
}

// telephone says what a number is for, by its types (RFC 6350 §6.4.1).
func telephone(tel *vcard.Field) intake.Column {
	types := tel.Params.Types()
	has := func(t string) bool { return slices.Contains(types, t) }
	switch {
	case has("text") && !has("voice") && !has("cell"):
		return intake.TextOnly
	case has("cell") || has("text"):
		return intake.Mobile
	case has("home") || has("work") || has("voice"):
		return intake.Landline
	}
	return intake.Mobile
}

// writeVCards writes people as vCard 4 (RFC 6350).
func writeVCards(header []intake.Column, rows [][]string) []byte {
	var b bytes.Buffer
	for _, cells := range rows {
		c := cardWriter{&b}
		c.line("BEGIN", "VCARD")
		c.line("VERSION", "4.0")
		c.names(header, cells)
		for i, meaning := range header {
			c.cell(meaning, cells[i])
		}
		c.line("END", "VCARD")
	}
	return b.Bytes()
}

type cardWriter struct{ b *bytes.Buffer }

var escape = strings.NewReplacer("\\", "\\\\", ",", "\\,", ";", "\\;", "\r\n", "\\n", "\n", "\\n")

const foldedLength = 75 // octets, RFC 6350 §3.2

// line writes a property, folded between characters.
func (c cardWriter) line(name, value string) {
	line := name + ":" + value
	for len(line) > foldedLength {
		cut := foldedLength
		for !utf8.RuneStart(line[cut]) {
			cut--
		}
		c.b.WriteString(line[:cut] + "\r\n ")
		line = line[cut:]
	}
	c.b.WriteString(line + "\r\n")
}

func (c cardWriter) names(header []intake.Column, cells []string) {
	value := func(meaning intake.Column) string {
		if i := slices.Index(header, meaning); i >= 0 {
			return cells[i]
		}
		return ""
	}
	given, family := value(intake.GivenName), value(intake.FamilyName)
	full := strings.TrimSpace(given + " " + family)
	if full == "" {
		full = value(intake.FullName)
	}
	c.line("FN", escape.Replace(full))
	if given+family != "" {
		c.line("N", fmt.Sprintf("%s;%s;;;", escape.Replace(family), escape.Replace(given)))
	}
}

func (c cardWriter) cell(meaning intake.Column, cell string) {
	if cell == "" {
		return
	}
	switch meaning {
	case intake.GivenName, intake.FamilyName, intake.FullName:
		return
	case intake.Mobile, intake.Landline, intake.TextOnly:
		types := map[intake.Column]string{
			intake.Mobile: `"cell,text,voice"`, intake.Landline: "voice", intake.TextOnly: "text",
		}[meaning]
		for _, number := range several(cell) {
			c.line("TEL;TYPE="+types, escape.Replace(number))
		}
		return
	case intake.Email:
		for _, mailbox := range several(cell) {
			c.line("EMAIL", escape.Replace(mailbox))
		}
		return
	case intake.Groups:
		names := several(cell)
		for i := range names {
			names[i] = escape.Replace(names[i])
		}
		c.line("CATEGORIES", strings.Join(names, ","))
		return
	}
	for _, property := range standardProperties {
		if property.meaning == meaning {
			c.line(property.name, escape.Replace(cell))
			return
		}
	}
	if name, ok := intake.AttributeOf(meaning); ok {
		c.line(extension+"ATTRIBUTE", escape.Replace(name+"="+cell))
		return
	}
	c.line(extension+strings.ToUpper(strings.ReplaceAll(string(meaning), " ", "-")), escape.Replace(cell))
}

// several cuts a cell that holds several values.
func several(cell string) []string {
	var list []string
	for _, v := range strings.Split(cell, ";") {
		if v = strings.TrimSpace(v); v != "" {
			list = append(list, v)
		}
	}
	return list
}
