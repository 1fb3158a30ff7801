package report

import (
	"bytes"
	"time"

	"codeberg.org/go-pdf/fpdf"
	"github.com/boombuler/barcode/qr"

	"jadegate/core/say"
)

// The page, mm: A4 with its margins, divided into twelve columns.
const (
	pageW, pageH = 210.0, 297.0
	margin       = 16.0
	marginTop    = 14.0
	marginBottom = 16.0
	columns      = 12
	columnW      = (pageW - 2*margin) / columns
	between      = 1.5 // between the words of two columns
)

// colour of what is printed.
type colour [3]int

var (
	ink    = colour{27, 39, 35}
	soft   = colour{85, 97, 90}
	jade   = colour{31, 97, 82}
	copper = colour{138, 67, 16}
	plum   = colour{125, 39, 80}
	rule   = colour{207, 198, 175}
)

// style is how words are printed; the zero value is the text of the report.
type style struct {
	size    float64 // pt; 0: 9.5
	bold    bool
	figures bool // in the face for figures
	right   bool
	colour  *colour // nil: ink
	top     float64 // mm over and under the words
	bottom  float64
}

const (
	textSize = 9.5
	leading  = 1.24
	ptToMm   = 25.4 / 72
)

func (s *style) height() float64 {
	if s.size == 0 {
		s.size = textSize
	}
	return s.size * ptToMm * leading
}

// cell is words in some of the twelve columns.
type cell struct {
	columns int
	words   string
	style
}

// page is a paper being written from top to bottom. What does not fit goes on the next.
type page struct {
	f *fpdf.Fpdf
	y float64
}

// newPage begins a paper of a day, with its name on each page.
func newPage(name, title string, made time.Time) (*page, error) {
	f := fpdf.New("P", "mm", "A4", "")
	for _, x := range []struct{ family, style, file string }{{"words", "", "words-regular"}, {"words", "B", "words-bold"}, {"figures", "", "figures-regular"},
		{"figures", "B", "figures-bold"}} {
		b, err := fonts.ReadFile("fonts/" + x.file + ".ttf")
		if err != nil {
			return nil, err
		}
		f.AddUTF8FontFromBytes(x.family, x.style, b)
	}
	f.SetCatalogSort(true)
	f.SetCreationDate(made)
	f.SetModificationDate(made)
	f.SetTitle(printable(title), true)
	f.SetProducer(say.T("Jade Gate"), true)
	f.SetLang("en")
	f.SetMargins(margin, marginTop, margin)
	f.SetAutoPageBreak(false, 0)
	const total = "{total}"
	f.AliasNbPages(total)
	p := &page{f: f}
	f.SetFooterFunc(func() {
		p.set(&style{size: 8, colour: &soft})
		words := say.F("%s, page %d of ", printable(name), f.PageNo())
		// The number of pages is put in at the end: what is drawn is its name.
		f.Text(pageW-margin-f.GetStringWidth(words+"00"), pageH-8, words+total)
	})
	p.next()
	return p, f.Error()
}

func (p *page) next() {
	p.f.AddPage()
	p.y = marginTop
}

// room makes sure that something of a height fits on this page.
func (p *page) room(h float64) {
	if p.y+h > pageH-marginBottom && p.y > marginTop {
		p.next()
	}
}

func (p *page) set(s *style) {
	s.height()
	family, weight := "words", ""
	if s.figures {
		family = "figures"
	}
	if s.bold {
		weight = "B"
	}
	p.f.SetFont(family, weight, s.size)
	c := ink
	if s.colour != nil {
		c = *s.colour
	}
	p.f.SetTextColor(c[0], c[1], c[2])
}

// write prints one line of words with its top left corner at a place.
func (p *page) write(x, y, w float64, words string, s style) {
	p.set(&s)
	if s.right {
		x += w - p.f.GetStringWidth(words)
	}
	p.f.Text(x, y+s.size*ptToMm*0.95, words)
}

// row prints cells side by side, as high as the highest of them. One that is higher than
// a page goes on over the next, line by line.
func (p *page) row(cells ...cell) {
	lines := make([][]string, len(cells))
	h := 0.0
	for i := range cells {
		c := &cells[i]
		p.set(&c.style)
		lines[i] = p.f.SplitText(printable(c.words), float64(c.columns)*columnW-between)
		h = max(h, c.top+float64(len(lines[i]))*c.height()+c.bottom)
	}
	if whole := pageH - marginTop - marginBottom; h <= whole {
		p.room(h)
		p.cells(cells, lines)
		p.y += h
		return
	}
	for len(lines[0]) > 0 || len(cells) > 1 {
		rest := false
		part, left := make([][]string, len(cells)), make([][]string, len(cells))
		for i := range cells {
			n := min(len(lines[i]), int((pageH-marginBottom-p.y-cells[i].top)/cells[i].height()))
			part[i], left[i] = lines[i][:max(n, 0)], lines[i][max(n, 0):]
			rest = rest || len(left[i]) > 0
		}
		p.cells(cells, part)
		lines = left
		if !rest {
			for i := range cells {
				h = cells[i].top + float64(len(part[i]))*cells[i].height() + cells[i].bottom
				p.y = max(p.y, min(p.y+h, pageH-marginBottom))
			}
			return
		}
		p.next()
	}
}

func (p *page) cells(cells []cell, lines [][]string) {
	x := margin
	for i := range cells {
		c := &cells[i]
		w := float64(c.columns) * columnW
		for k, line := range lines[i] {
			p.write(x, p.y+c.top+float64(k)*c.height(), w, line, c.style)
		}
		x += w
	}
}

// gap leaves room.
func (p *page) gap(mm float64) { p.y += mm }

// line draws a line across the page.
func (p *page) line(thick, under float64) {
	p.f.SetDrawColor(rule[0], rule[1], rule[2])
	p.f.SetLineWidth(thick)
	p.f.Line(margin, p.y, pageW-margin, p.y)
	p.y += under
}

// block gives a place of a height to draw in.
func (p *page) block(h float64, draw func(x, y float64)) {
	p.room(h)
	draw(margin, p.y)
	p.y += h
}

func (p *page) fill(c colour, x, y, w, h float64) {
	p.f.SetFillColor(c[0], c[1], c[2])
	p.f.Rect(x, y, w, h, "F")
}

// code draws words as a QR code in a square.
func (p *page) code(words string, x, y, side float64) error {
	m, err := qr.Encode(words, qr.M, qr.Auto)
	if err != nil {
		return say.Errorf("code of the log: %w", err)
	}
	n := m.Bounds().Dx()
	step := side / float64(n)
	for row := range n {
		for from := 0; from < n; from++ {
			to := from
			for to < n && dark(m.At(to, row)) {
				to++
			}
			if to > from {
				p.fill(colour{}, x+float64(from)*step, y+float64(row)*step, float64(to-from)*step, step)
				from = to
			}
		}
	}
	return nil
}

func dark(c interface{ RGBA() (r, g, b, a uint32) }) bool {
	r, _, _, _ := c.RGBA()
	return r < 0x8000
}

func (p *page) bytes() ([]byte, error) {
	var b bytes.Buffer
	if err := p.f.Output(&b); err != nil {
		return nil, say.Errorf("report: %w", err)
	}
	return b.Bytes(), nil
}
