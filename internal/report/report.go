// Package report makes the papers of an inspection.
package report

import (
	"jadegate/core/inspection"
	"jadegate/core/policy"
)

// PDF is the report of an inspection.
func PDF(s *inspection.State, e *inspection.Evaluation, h *policy.House) ([]byte, error) {
	return nil, nil
}
