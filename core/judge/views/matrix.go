package views

import (
	"jadegate/core/catalogue"
	"jadegate/core/inspection"
	"jadegate/core/judge/bind"
)

// MatrixOf fills the matrix from the traces of a log.
func MatrixOf(s *inspection.State, env bind.Env) bind.Matrix {
	b := bind.New(s, env, &catalogue.Check{ID: "bench.matrix"}, nil)
	return b.Matrix()
}
