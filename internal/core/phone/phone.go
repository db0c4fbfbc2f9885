// Package phone brings typed numbers to E.164 (ITU-T E.164) and shows them
// the way people read them.
package phone

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"

	"github.com/nyaruka/phonenumbers"
)

// ErrUnreadable means that no telephone number can be made of what was typed.
var ErrUnreadable = errors.New("cannot be read as a telephone number")

// Parse reads a number typed in national or international form. Region is
// the ISO 3166 country whose national form is assumed. The result is E.164,
// such as +447700900417.
//
// A number in no assigned range still counts when it is as long as the mobile
// or fixed numbers of its country: ranges are set aside for fiction, and new
// ones are assigned before anybody's tables know.
//
// A number with an extension keeps it, as RFC 3966 §5.1 writes it:
// +441632960009;ext=9.
func Parse(typed, region string) (string, error) {
	if Mangled(typed) {
		return "", fmt.Errorf("%q %w: it %w", typed, ErrUnreadable, ErrMangled)
	}
	if before, extension, found := strings.Cut(typed, extensionMark); found && strings.Trim(extension, "0123456789") == "" {
		e164, err := Parse(before, region)
		if err != nil {
			return "", err
		}
		return WithExtension(e164, extension), nil
	}
	n, err := phonenumbers.Parse(typed, region)
	if err != nil {
		return "", fmt.Errorf("%q %w", typed, ErrUnreadable)
	}
	digits := len(phonenumbers.GetNationalSignificantNumber(n))
	usual := usualDigits(int(n.GetCountryCode()))
	if slices.Contains(usual, digits) || phonenumbers.IsValidNumber(n) {
		return phonenumbers.Format(n, phonenumbers.E164), nil
	}
	switch {
	case len(usual) == 0:
		return "", fmt.Errorf("%q %w", typed, ErrUnreadable)
	case digits < slices.Min(usual):
		return "", fmt.Errorf("%q %w: it is too short", typed, ErrUnreadable)
	}
	return "", fmt.Errorf("%q %w: it is too long", typed, ErrUnreadable)
}

const extensionMark = ";ext="

// WithExtension is a number with an extension, which may be "".
func WithExtension(e164, extension string) string {
	if extension == "" {
		return e164
	}
	return e164 + extensionMark + extension
}

// HasExtension reports whether a number has an extension: it takes calls, and no texts.
func HasExtension(number string) bool { return strings.Contains(number, extensionMark) }

// Landline reports whether an E.164 number is a fixed line, which takes calls
// but no texts.
func Landline(e164 string) bool {
	if HasExtension(e164) {
		return true
	}
	block := e164[:max(0, len(e164)-blockDigits)]
	if known, ok := fixedByBlock.Load(block); ok {
		return known.(bool)
	}
	n, err := phonenumbers.Parse(e164, "")
	fixed := err == nil && phonenumbers.GetNumberType(n) == phonenumbers.FIXED_LINE
	fixedByBlock.Store(block, fixed)
	return fixed
}

// fixedByBlock remembers which blocks of numbers are fixed lines; networks get
// them by the thousand at least, and long lists are read number by number.
var fixedByBlock sync.Map // of bool by all but the last three digits

const blockDigits = 3

// Assigned reports whether an E.164 number lies in a range that is in use.
func Assigned(e164 string) bool {
	e164, _, _ = strings.Cut(e164, extensionMark)
	n, err := phonenumbers.Parse(e164, "")
	return err == nil && phonenumbers.IsValidNumber(n)
}

var digitsByCode sync.Map // of []int by country calling code; a pure function's memory

// usualDigits are the lengths of a country's fixed and mobile numbers, without
// the calling code.
func usualDigits(code int) []int {
	if known, ok := digitsByCode.Load(code); ok {
		return known.([]int)
	}
	var usual []int
	region := phonenumbers.GetRegionCodeForCountryCode(code)
	for _, t := range []phonenumbers.PhoneNumberType{phonenumbers.FIXED_LINE, phonenumbers.MOBILE} {
		if example := phonenumbers.GetExampleNumberForType(region, t); example != nil {
			usual = append(usual, len(phonenumbers.GetNationalSignificantNumber(example)))
		}
	}
	digitsByCode.Store(code, usual)
	return usual
}

// gap is a separator that stands before a digit.
type gap struct {
	at  int // index into the E.164 number
	sep string
}

// gapsByRange remembers how numbers are grouped, which the first digits and
// the length decide; working it out anew is too slow for long lists.
var gapsByRange sync.Map // of []gap by range

const rangeDigits = 9 // the plus sign, the calling code and the area or network

// Display writes an E.164 number in groups, such as +44 7700 900417. What is
// not a number is returned as it is.
func Display(e164 string) string {
	if !strings.HasPrefix(e164, "+") {
		return e164
	}
	if number, extension, found := strings.Cut(e164, extensionMark); found {
		return Display(number) + " ext. " + extension
	}
	key := fmt.Sprint(e164[:min(rangeDigits, len(e164))], len(e164))
	gaps, known := gapsByRange.Load(key)
	if !known {
		gaps = gapsOf(e164)
		gapsByRange.Store(key, gaps)
	}
	var b strings.Builder
	from := 0
	for _, g := range gaps.([]gap) {
		b.WriteString(e164[from:g.at])
		b.WriteString(g.sep)
		from = g.at
	}
	b.WriteString(e164[from:])
	return b.String()
}

func gapsOf(e164 string) []gap {
	n, err := phonenumbers.Parse(e164, "")
	if err != nil {
		return []gap(nil)
	}
	var gaps []gap
	at := 0
	for _, r := range phonenumbers.Format(n, phonenumbers.INTERNATIONAL) {
		if at < len(e164) && r == rune(e164[at]) {
			at++
			continue
		}
		gaps = append(gaps, gap{at, string(r)})
	}
	return gaps
}

// Within is the part of a number as it is typed by which it is found in its E.164
// form: without separators and the 0 of national numbers. What is no number is
// returned in lower case.
func Within(typed string) string {
	digits := strings.NewReplacer(" ", "", "-", "", "(", "", ")", "", "/", "", ".", "").Replace(typed)
	if digits == "" || strings.Trim(digits, "+0123456789") != "" {
		return strings.ToLower(strings.TrimSpace(typed))
	}
	return strings.TrimPrefix(digits, "0")
}
