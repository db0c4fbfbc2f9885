// Package money counts in whole thousandths of a currency's minor unit, so
// that the price of one text part adds up exactly over a hundred thousand.
package money

import (
	"errors"
	"fmt"
	"math/big"
	"strings"

	"golang.org/x/text/currency"
)

// Amount is a sum in thousandths of the minor unit: 546_000 is 546 pence,
// or £5.46.
type Amount int64

// Minor is one whole minor unit, such as a penny.
const Minor Amount = 1000

// minorDigits are the decimals of Minor.
const minorDigits = 3

// Rounded is the amount in whole minor units, halves away from zero.
func (a Amount) Rounded() int64 {
	if a < 0 {
		return -(-a).Rounded()
	}
	return int64((a + Minor/2) / Minor)
}

// symbols are the signs of currencies that are commonly written with one.
var symbols = map[string]string{"GBP": "£", "EUR": "€", "USD": "$", "PLN": "zł "}

// Format writes the amount rounded to the minor unit of a currency, given by its
// ISO 4217 code.
func (a Amount) Format(code string) string {
	sign, minor := "", a.Rounded()
	if minor < 0 {
		sign, minor = "-", -minor
	}
	symbol, ok := symbols[code]
	if !ok {
		symbol = code + " "
	}
	return sign + symbol + decimal(minor, digits(code))
}

// Exact writes the amount in whole units of a currency with all that it has, without
// a sign of the currency: “0.038”.
func (a Amount) Exact(code string) string {
	text := decimal(int64(a), digits(code)+minorDigits)
	whole, rest, _ := strings.Cut(text, ".")
	if rest = strings.TrimRight(rest, "0"); rest == "" {
		return whole
	}
	return whole + "." + rest
}

// ErrUnreadable means that no sum can be made of what was typed.
var ErrUnreadable = errors.New("cannot be read as a sum")

// Parse reads a sum in whole units of a currency, such as “0.038” or “0,038”, that is
// not below zero. More decimals than an amount has are refused.
func Parse(typed, code string) (Amount, error) {
	text := strings.Replace(strings.TrimSpace(typed), ",", ".", 1)
	whole, rest, _ := strings.Cut(text, ".")
	scale := digits(code) + minorDigits
	if whole+rest == "" || strings.Trim(whole+rest, "0123456789") != "" {
		return 0, fmt.Errorf("%q %w", typed, ErrUnreadable)
	}
	if rest = strings.TrimRight(rest, "0"); len(rest) > scale {
		return 0, fmt.Errorf("%q %w: it can have %d decimals", typed, ErrUnreadable, scale)
	}
	n, _ := new(big.Int).SetString(whole+rest+strings.Repeat("0", scale-len(rest)), 10)
	if !n.IsInt64() || n.Int64() > int64(Most) {
		return 0, fmt.Errorf("%q %w: it is too much", typed, ErrUnreadable)
	}
	return Amount(n.Int64()), nil
}

// Most is the largest sum that can be typed.
const Most = 1_000_000_000 * Minor

// digits are the decimals of a currency's minor unit: 2 of the pound, none of the yen.
func digits(code string) int {
	unit, err := currency.ParseISO(code)
	if err != nil {
		return 2
	}
	scale, _ := currency.Standard.Rounding(unit)
	return scale
}

// decimal writes a number that is not below zero with so many digits after its point.
func decimal(n int64, digits int) string {
	text := fmt.Sprintf("%0*d", digits+1, n)
	if digits == 0 {
		return text
	}
	return text[:len(text)-digits] + "." + text[len(text)-digits:]
}
