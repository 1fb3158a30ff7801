package api

import (
	"bytes"
	"encoding/binary"
	"encoding/json"
	"image"
	"image/color"
	"image/jpeg"
	"net/http/httptest"
	"strings"
	"testing"

	"jadegate/core/ledger"
	"jadegate/internal/picture"
)

// raw sends a body as it is and gives the answer's code and content.
func (r *desk) raw(method, path, mime string, body []byte) (int, []byte) {
	r.t.Helper()
	req := httptest.NewRequest(method, path, bytes.NewReader(body))
	req.Header.Set("Content-Type", mime)
	rec := r.send(req)
	return rec.Code, rec.Body.Bytes()
}

// camera is a JPEG as a camera writes it: turned by a quarter, with the place in
// its EXIF block.
func camera(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 64, 32))
	for x := range 64 {
		for y := range 32 {
			img.Set(x, y, color.RGBA{uint8(4 * x), uint8(8 * y), 90, 255})
		}
	}
	var b bytes.Buffer
	if err := jpeg.Encode(&b, img, nil); err != nil {
		t.Fatal(err)
	}
	le := binary.LittleEndian
	tiff := []byte("II*\x00\x08\x00\x00\x00")
	tiff = le.AppendUint16(tiff, 2)
	for _, tag := range [][4]uint32{{0x0112, 3, 1, 6}, {0x8825, 4, 1, 38}} { // orientation, place
		tiff = le.AppendUint16(le.AppendUint16(tiff, uint16(tag[0])), uint16(tag[1]))
		tiff = le.AppendUint32(le.AppendUint32(tiff, tag[2]), tag[3])
	}
	tiff = append(le.AppendUint32(tiff, 0), "\x00\x00QUAY-BENCH-PLACE"...)
	seg := append([]byte("Exif\x00\x00"), tiff...)
	out := append([]byte{}, b.Bytes()[:2]...)
	out = append(out, 0xff, 0xe1)
	out = binary.BigEndian.AppendUint16(out, uint16(len(seg)+2))
	return append(append(out, seg...), b.Bytes()[2:]...)
}

func TestPhotoLosesItsPlaceAndStandsUpright(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	data := camera(t)
	if !bytes.Contains(data, []byte("QUAY-BENCH-PLACE")) {
		t.Fatal("the picture tells no place to begin with")
	}
	var p Stored
	code, got := r.raw("POST", "/api/photos", "application/octet-stream", data)
	if err := json.Unmarshal(got, &p); err != nil || code != 200 || p.Width != 32 || p.Height != 64 {
		t.Fatalf("%d %s", code, got)
	}
	for _, path := range []string{"", "/thumbnail"} {
		code, file := r.raw("GET", "/api/photos/"+p.Sha256+path, "", nil)
		if code != 200 || bytes.Contains(file, []byte("QUAY-BENCH-PLACE")) || bytes.Contains(file, []byte("Exif")) {
			t.Errorf("%s%s: %d, %d bytes", p.Sha256[:8], path, code, len(file))
		}
	}
	var again Stored
	_, got = r.raw("POST", "/api/photos", "application/octet-stream", data)
	if _ = json.Unmarshal(got, &again); again != p {
		t.Errorf("the same picture is stored once: %+v", again)
	}
	say := func(id, sha string) int {
		return r.call("POST", "/api/inspections/a/entries", `{"id":"`+id+`","kind":"photo","body":{"sha256":"`+sha+`","view":"left"}}`, nil)
	}
	if code := say("photo-entry-1", p.Sha256); code != 200 {
		t.Errorf("a stored photo: %d", code)
	}
	if code := say("photo-entry-2", strings.Repeat("ab", 32)); code != 422 {
		t.Errorf("a photo that is not stored: %d", code)
	}
}

func TestWhatIsNoPhotoIsRefused(t *testing.T) {
	r := newDesk(t)
	for _, k := range []struct {
		name string
		data []byte
		code int
		says string
	}{
		{"text", []byte("<svg onload=alert(1)>"), 422, "not a picture"},
		{"a picture cut off", camera(t)[:800], 422, "take it again"},
		{"too large", append(camera(t), make([]byte, picture.MaxBytes)...), 413, ""},
	} {
		code, got := r.raw("POST", "/api/photos", "application/octet-stream", k.data)
		if code != k.code || !strings.Contains(string(got), k.says) {
			t.Errorf("%s: %d %s", k.name, code, got)
		}
	}
}

func TestKitSheetsComeAndGo(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	code, file := r.raw("GET", "/api/kits/Orrin%20F4", "", nil)
	if code != 200 || !bytes.Contains(file, []byte("jadegate.kit/1")) {
		t.Fatalf("%d %s", code, file)
	}
	own := bytes.Replace(file, []byte("peak_nm: 45"), []byte("peak_nm: 48"), 1)
	if code, got := r.raw("POST", "/api/kits", "application/yaml", own); code != 200 {
		t.Fatalf("%d %s", code, got)
	}
	if _, back := r.raw("GET", "/api/kits/Orrin%20F4", "", nil); !bytes.Equal(back, own) {
		t.Error("the workshop's own sheet takes the place of the shipped one, byte for byte")
	}
	wrong := bytes.Replace(file, []byte("d_mm: 12"), []byte("d_mm: 120"), 1)
	if code, got := r.raw("POST", "/api/kits", "application/yaml", wrong); code != 422 || !bytes.Contains(got, []byte("axle.d_mm")) ||
		!bytes.Contains(got, []byte("4 to 30 mm")) {
		t.Errorf("%d %s", code, got)
	}
	newer := bytes.Replace(file, []byte("jadegate.kit/1"), []byte("jadegate.kit/2"), 1)
	if code, got := r.raw("POST", "/api/kits", "application/yaml", newer); code != 422 || !bytes.Contains(got, []byte("this edition reads")) {
		t.Errorf("%d %s", code, got)
	}
	fill := `{"id":"fill-0001","kit":"Orrin F4","drive":0}`
	var first, second Done
	r.call("POST", "/api/inspections/a/kit", fill, &first)
	var v View
	r.call("GET", "/api/inspections/a", "", &v)
	if d := v.Sheet.Drives[0]; first.Entries < 20 || d.DeclaredPeakNm.Value.V != 48 || d.DeclaredPeakNm.Source != "kit_sheet" {
		t.Errorf("%d entries, %+v", first.Entries, d)
	}
	seq := v.Seq
	r.call("POST", "/api/inspections/a/kit", strings.Replace(fill, "0001", "0002", 1), &second)
	if r.call("GET", "/api/inspections/a", "", &v); second.Entries != 0 || v.Seq != seq {
		t.Errorf("a second time fills nothing: %+v", second)
	}
	var p Problem
	if code := r.call("POST", "/api/inspections/a/kit", strings.Replace(fill, "Orrin F4", "Brae M7", 1), &p); code != 422 || p.Errors[0].Field != "kit" {
		t.Errorf("a mid-drive's sheet for a hub: %d %+v", code, p)
	}
}

func TestLedgerFileThereAndBack(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	if code := r.call("PUT", "/api/instruments/QB-07", `{"id":"QB-07","name":"Torque tool","kind":"torque","unit":"N·m","max":60}`, nil); code != 200 {
		t.Fatal(code)
	}
	take := func(token, csv string) (int, string) {
		code, got := r.raw("POST", "/api/inspections/a/ledger.csv?token="+token, "text/csv", []byte(csv))
		return code, string(got)
	}
	file := "place,group,thread,ring,low_nm,high_nm,reading_nm,tool,locking,no_tool\r\n" +
		"\"axle nut, front, left\",,,,,,40,QB-07,,\r\n" +
		"rack screw,rack_battery,M5,,4,6,,,thread_locker,behind the lamp\r\n"
	if code, got := take("ledger-0001", file); code != 200 || !strings.Contains(got, `"entries":4`) {
		t.Fatalf("%d %s", code, got)
	}
	if code, got := take("ledger-0002", file); code != 200 || !strings.Contains(got, `"entries":0`) {
		t.Errorf("what it says already: %d %s", code, got)
	}
	var lines []ledger.Fastener
	r.call("GET", "/api/inspections/a/ledger", "", &lines)
	if l := lines[0]; l.ReadNm.V != 40 || l.Tool == nil || l.Tool.ID != "QB-07" {
		t.Errorf("%+v", l)
	}
	if l := lines[len(lines)-1]; l.Place != "rack screw" || l.NoTool != "behind the lamp" || l.Locking != "thread_locker" || l.LowNm.V != 4 {
		t.Errorf("%+v", l)
	}
	_, out := r.raw("GET", "/api/inspections/a/ledger.csv", "", nil)
	if code, got := take("ledger-0003", string(out)); code != 200 || !strings.Contains(got, `"entries":0`) {
		t.Errorf("its own file says nothing new: %d %s", code, got)
	}
	var before, after View
	r.call("GET", "/api/inspections/a", "", &before)
	for says, bad := range map[string]string{
		"line 3, reading_nm":          "place,reading_nm\n\"axle nut, front, right\",41\nrack screw,tight\n",
		"is not on this vehicle":      "place,reading_nm\n\"axle nut, front, right\",41\nsaddle clamp,9\n",
		"is not a column":             "place,torque\nrack screw,5\n",
		"line 2, locking":             "place,locking\nrack screw,glue\n",
		"is not in the register":      "place,reading_nm,tool\n\"axle nut, front, right\",41,QB-99\n",
		"line 2: wrong number of fie": "place,reading_nm\nrack screw\n",
	} {
		if code, got := take("ledger-0004", bad); code != 422 || !strings.Contains(strings.ReplaceAll(got, `","problem":"`, ": "), says) &&
			!strings.Contains(got, says) {
			t.Errorf("%s: %d %s", says, code, got)
		}
	}
	if r.call("GET", "/api/inspections/a", "", &after); after.Seq != before.Seq {
		t.Errorf("a wrong file wrote %d entries", after.Seq-before.Seq)
	}
}

func TestRegisterSaysWhatIsWrongWithATool(t *testing.T) {
	r := newDesk(t)
	for field, body := range map[string]string{
		"kind":     `{"id":"x","name":"Tool","kind":"spanner","unit":"N·m","max":60}`,
		"max":      `{"id":"x","name":"Tool","kind":"torque","unit":"N·m"}`,
		"valid_to": `{"id":"x","name":"Tool","kind":"scale","unit":"kg","valid_to":"next May"}`,
		"name":     `{"id":"x","name":" ","kind":"scale","unit":"kg"}`,
		"a_pct":    `{"id":"x","name":"Tool","kind":"scale","unit":"kg","a_pct":-1}`,
	} {
		var p Problem
		if code := r.call("PUT", "/api/instruments/QB-30", body, &p); code != 422 || len(p.Errors) != 1 || p.Errors[0].Field != field || p.Errors[0].Want == "" {
			t.Errorf("%s: %d %+v", field, code, p)
		}
	}
}

func TestUndoesTellsTheCostOfAChange(t *testing.T) {
	r := newDesk(t)
	r.open("a")
	var u Undoing
	if code := r.call("GET", "/api/inspections/a/undoes?op=wheel_out&op=lever_moved", "", &u); code != 200 || len(u.Checks) < 12 || u.Minutes < 30 {
		t.Errorf("%d: %d checks, %v min", code, len(u.Checks), u.Minutes)
	}
	var p Problem
	if code := r.call("GET", "/api/inspections/a/undoes?op=painted", "", &p); code != 422 || !strings.Contains(p.Detail, "is not an operation") {
		t.Errorf("%d %+v", code, p)
	}
}
