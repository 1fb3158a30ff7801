// Package verdict judges a vehicle: how each check stands, what is wrong and how badly, which
// gates are shut, and what follows for riding it. What failed stands until work on it was written
// down and it was measured again, whatever is said in between.
package verdict
