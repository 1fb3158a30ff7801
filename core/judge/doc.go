// Package judge holds the four packages that bring an inspection to its verdict, and the tests
// of all of them together. All of it is pure: a log and the rules go in, a judgement comes out.
//
//   - bind takes what a check needs from what was said of a vehicle (package inspection), as far
//     as it counts (package evidence), runs the calculation or rule and gives its limits judged;
//   - verdict makes of that the outcome of each check, the findings and gates, keeps what failed
//     until it is mended, and signs;
//   - accept says which entries an inspection takes, since some wait for a verdict or a gate;
//   - views are what stations show beside the checks: the wiring, the plan of a trike, the law.
//
// Arrows go one way: accept and views know verdict and bind, verdict knows bind, bind none of them.
package judge
