//go:build unix

package main

import "golang.org/x/sys/unix"

// Whatever the program writes is for whoever runs it alone: files 0600, directories 0700.
func init() { unix.Umask(0o077) }
