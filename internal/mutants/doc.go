// Package mutants proves that no gate opens on evidence that is not there. Sound
// vehicles of every kind, judged open, are each changed in one thing by rule, not by
// hand; the verdict must be as bad as the defect asks. An escape is a verdict that is
// better; a table, reviewed line by line, says which changes are no defect and why.
package mutants
