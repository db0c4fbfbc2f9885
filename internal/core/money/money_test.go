package money_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"upperlantern/internal/core/money"
)

func TestFormat(t *testing.T) {
	for _, c := range []struct {
		name     string
		amount   money.Amount
		currency string
		want     string
	}{
		{"nothing", 0, "GBP", "£0.00"},
		{"pounds and pence", 546 * money.Minor, "GBP", "£5.46"},
		{"a half is rounded up", 3500, "GBP", "£0.04"},
		{"less than a half down", 3499, "GBP", "£0.03"},
		{"below nothing", -3500, "EUR", "-€0.04"},
		{"a currency without a sign here", 100 * money.Minor, "NOK", "NOK 1.00"},
		{"a currency without a minor unit", 100 * money.Minor, "JPY", "JPY 100"},
		{"a currency of thousandths", 1234 * money.Minor, "KWD", "KWD 1.234"},
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.amount.Format(c.currency)) })
	}
}

func TestParse(t *testing.T) {
	for _, c := range []struct {
		name, typed, currency string
		want                  money.Amount
		says                  string
	}{
		{"a price of a text", "0.038", "GBP", 3800, ""},
		{"with a comma", " 0,038 ", "EUR", 3800, ""},
		{"whole", "12", "GBP", 1200 * money.Minor, ""},
		{"without a whole part", ".5", "GBP", 50 * money.Minor, ""},
		{"nothing", "0", "GBP", 0, ""},
		{"zeros at the end", "0.03800000", "GBP", 3800, ""},
		{"yen", "3.5", "JPY", 3500, ""},
		{"more than it has", "0.0000381", "GBP", 0, "5 decimals"},
		{"below nothing", "-1", "GBP", 0, "cannot be read"},
		{"no number", "a lot", "GBP", 0, "cannot be read"},
		{"empty", "", "GBP", 0, "cannot be read"},
		{"a point alone", ".", "GBP", 0, "cannot be read"},
		{"two points", "1.2.3", "GBP", 0, "cannot be read"},
		{"thousands", "1,000.00", "GBP", 0, "cannot be read"},
		{"too much", "99999999999999999999999", "GBP", 0, "too much"},
	} {
		t.Run(c.name, func(t *testing.T) {
			got, err := money.Parse(c.typed, c.currency)
			if c.says != "" {
				require.ErrorIs(t, err, money.ErrUnreadable)
				assert.ErrorContains(t, err, c.says)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.want, got)
		})
	}
}

func TestWhatIsWrittenExactlyIsReadBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		amount := money.Amount(rapid.Int64Range(0, int64(money.Most)).Draw(t, "amount"))
		code := rapid.SampledFrom([]string{"GBP", "JPY", "KWD", "???"}).Draw(t, "currency")
		got, err := money.Parse(amount.Exact(code), code)
		require.NoError(t, err)
		require.Equal(t, amount, got)
	})
}
