// Package judge is what an inspection comes to: it binds what was said of a vehicle
// (package inspection), as far as it counts (package evidence), to the checks that are
// asked (package catalogue) and to the calculations, and gives the outcome of each
// check, the findings and the verdict, under a house policy. It also says which entries
// an inspection takes, since some wait for a verdict or a gate. All of it is pure.
package judge
