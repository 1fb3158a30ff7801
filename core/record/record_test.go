package record

import (
	"strings"
	"testing"
)

func TestCanonical(t *testing.T) {
	for _, k := range []struct{ in, want string }{
		// The example of RFC 8785, 3.2.2 and 3.2.3.
		{`{"numbers":[333333333.33333329,1E30,4.50,2e-3,0.000000000000000000000000001],"string":"\u20ac$\u000F\u000aA'\u0042\u0022\u005c\\\"\/","literals":[null,true,false]}`,
			`{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\u000f\nA'B\"\\\\\"/"}`},
		{`{"\u20ac":"Euro","\r":"CR","\ufb33":"Dalet","1":"One","\ud83d\ude00":"Smiley","\u0080":"Control","\u00f6":"o"}`,
			"{\"\\r\":\"CR\",\"1\":\"One\",\"\u0080\":\"Control\",\"ö\":\"o\",\"€\":\"Euro\",\"😀\":\"Smiley\",\"\ufb33\":\"Dalet\"}"},
		{` { "b" : 1, "a" : 2, "b" : 3 } `, `{"a":2,"b":3}`},
		{`["\u003c\/\u0000", "\ud800"]`, "[\"</\\u0000\",\"\uFFFD\"]"},
		{`[-0, 1e21, 123456789012345680000, 1e-7, 0.000001]`, `[0,1e+21,123456789012345680000,1e-7,0.000001]`},
	} {
		got, err := Canonical([]byte(k.in))
		if err != nil || string(got) != k.want {
			t.Errorf("got  %s\nwant %s (%v)", got, k.want, err)
		}
	}
	for _, bad := range []string{`{"a":1e400}`, `{"a":1}]`, `{"a":`, ``, strings.Repeat("[", 200) + strings.Repeat("]", 200)} {
		if got, err := Canonical([]byte(bad)); err == nil {
			t.Errorf("%.40s is taken: %s", bad, got)
		}
	}
}
