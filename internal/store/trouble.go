package store

import (
	"database/sql/driver"
	"errors"
	"io"
	"net"
	"syscall"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/mattn/go-sqlite3"
)

// Troubles of the machine under the data base, told apart for those who can end them.
var (
	ErrFull     = errors.New("the disk is full")
	ErrReadOnly = errors.New("the data directory cannot be written to")
	ErrBusy     = errors.New("another program holds the data base")
	ErrDisk     = errors.New("the disk does not read or write as it should")
	ErrAway     = errors.New("the data base does not answer")
)

// Trouble is what is wrong with the machine, if that is what an error comes from; else
// nil.
func Trouble(err error) error {
	var db sqlite3.Error
	var server *pgconn.PgError
	var connect *pgconn.ConnectError
	var network *net.OpError
	switch {
	case errors.As(err, &server):
		switch server.Code[:2] {
		case "53": // disk full, out of memory, too many connections
			if server.Code == "53100" {
				return ErrFull
			}
			return ErrBusy
		case "57", "08": // shut down, connection lost
			return ErrAway
		case "58":
			return ErrDisk
		case "25":
			if server.Code == "25006" {
				return ErrReadOnly
			}
		}
		return nil
	case errors.Is(err, syscall.ENOSPC):
		return ErrFull
	case errors.Is(err, syscall.EROFS):
		return ErrReadOnly
	case errors.As(err, &connect), errors.As(err, &network), pgconn.SafeToRetry(err), errors.Is(err, pgconn.ErrConnClosed),
		errors.Is(err, io.ErrUnexpectedEOF), errors.Is(err, driver.ErrBadConn):
		return ErrAway
	case !errors.As(err, &db):
		return nil
	}
	switch db.Code {
	case sqlite3.ErrFull:
		return ErrFull
	case sqlite3.ErrReadonly, sqlite3.ErrPerm, sqlite3.ErrCantOpen:
		return ErrReadOnly
	case sqlite3.ErrBusy, sqlite3.ErrLocked:
		return ErrBusy
	case sqlite3.ErrIoErr, sqlite3.ErrCorrupt, sqlite3.ErrNotADB:
		return ErrDisk
	}
	return nil
}
