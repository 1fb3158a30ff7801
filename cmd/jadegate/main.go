package main

import (
	"fmt"
	"io"
	"os"

	"jadegate/core/calc"
	"jadegate/core/policy"
)

func main() {
	b, _ := io.ReadAll(os.Stdin)
	r, err := calc.Lookup(os.Args[2]).Run(b, policy.Default())
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(2)
	}
	o, _ := r.MarshalJSON()
	fmt.Println(string(o))
}
