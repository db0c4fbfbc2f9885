// Package demo ships the roster files of the demo. They are written by
// “upper-lantern roster demo”.
package demo

import "embed"

// Files holds the roster files.
//
//go:embed *.csv
var Files embed.FS

// Names are the files in the order in which they are loaded.
var Names = []string{"families.csv", "coaches-and-office.csv", "members.csv", "flood-watch.csv"}
