// Package money counts in whole thousandths of a currency's minor unit, so
// that the price of one text part adds up exactly over a hundred thousand.
package money

import "fmt"

// Amount is a sum in thousandths of the minor unit: 546_000 is 546 pence,
// or £5.46.
type Amount int64

// Minor is one whole minor unit, such as a penny.
const Minor Amount = 1000

// Rounded is the amount in whole minor units, halves away from zero.
func (a Amount) Rounded() int64 {
	if a < 0 {
		return -(-a).Rounded()
	}
	return int64((a + Minor/2) / Minor)
}

// symbols are the signs of currencies that are commonly written with one.
var symbols = map[string]string{"GBP": "£", "EUR": "€", "USD": "$", "PLN": "zł "}

// Format writes the amount rounded to the minor unit, for a currency with two
// decimals given by its ISO 4217 code.
func (a Amount) Format(currency string) string {
	sign, minor := "", a.Rounded()
	if minor < 0 {
		sign, minor = "-", -minor
	}
	symbol, ok := symbols[currency]
	if !ok {
		symbol = currency + " "
	}
	return fmt.Sprintf("%s%s%d.%02d", sign, symbol, minor/100, minor%100)
}
