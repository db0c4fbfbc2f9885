// Package password makes and checks what is kept of passwords.
package password

import "github.com/alexedwards/argon2id"

// Cost is what the computing of a hash takes: memory, passes and threads
// (RFC 9106 §3.1). A hash says by itself what it took.
type Cost = argon2id.Params

// Usual is the cost for the passwords of people.
var Usual = argon2id.DefaultParams

// Hash makes an argon2id hash (RFC 9106) with a salt of its own.
func Hash(password string, cost *Cost) (string, error) {
	return argon2id.CreateHash(password, cost)
}

// Matches reports whether a password is that of a hash.
func Matches(password, hash string) (bool, error) {
	return argon2id.ComparePasswordAndHash(password, hash)
}
