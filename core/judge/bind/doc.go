// Package bind fills what the checks are decided by from what was said of a vehicle. A Binder
// takes the inputs of one check, says which are wanting, doubtful or do not count, and hands them
// to the calculation or rule; figures that stand beside the one judged by are tried in turn. What
// the checks of one evaluation share is worked out once in a Session.
package bind
