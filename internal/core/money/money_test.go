package money_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

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
	} {
		t.Run(c.name, func(t *testing.T) { assert.Equal(t, c.want, c.amount.Format(c.currency)) })
	}
}
