package workshop

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"jadegate/core/limits"
	"jadegate/core/quantity"
	"jadegate/core/say"
	"jadegate/internal/store"
)

// LawReview is a place's law as somebody of this workshop reads it: each fact of the pack
// once, for all classes in which it is the same.
type LawReview struct {
	Pack     string              `json:"pack"`
	Name     string              `json:"name"`
	Kind     string              `json:"kind" enum:"road,product"`
	AsOf     string              `json:"as_of"`
	Version  int                 `json:"version"`
	Own      bool                `json:"own"`
	MadeUp   bool                `json:"made_up"`
	BasedOn  string              `json:"based_on"`
	Sources  []limits.PackSource `json:"sources"`
	Notes    []string            `json:"notes"`
	Reviewed *limits.Reviewed    `json:"reviewed"`
	Done     bool                `json:"done" doc:"every fact was read here, and none too long ago"`
	Words    string              `json:"words" doc:"by whom it was read, or what is wanting"`
	Texts    []LawText           `json:"texts" doc:"files and photos of the law's text"`
	Facts    []LawFact           `json:"facts"`
}

// LawFact is a requirement of one or several classes.
type LawFact struct {
	Field    string               `json:"field"`
	Title    string               `json:"title"`
	Classes  []string             `json:"classes" doc:"ids of the classes in which it is the same"`
	Names    []string             `json:"names" doc:"their names"`
	Source   string               `json:"source" doc:"title of the law"`
	Section  string               `json:"section"`
	Grade    string               `json:"grade" doc:"c: certain, l: likely, u: unsure; empty where the pack does not say"`
	Means    string               `json:"means" doc:"what it means for a vehicle, in plain words"`
	Question string               `json:"question" doc:"what is not certain; empty where nothing is"`
	Free     bool                 `json:"free"`
	Unstated bool                 `json:"unstated" doc:"a power of which the law does not say by which figure"`
	Bound    any                  `json:"bound,omitempty" doc:"what it asks, in the pack's own form"`
	Answer   *limits.ReviewAnswer `json:"answer,omitempty"`
	Now      string               `json:"now" doc:"what it means as it was answered"`
	Waits    bool                 `json:"waits" doc:"loosened: it waits for a second name"`
}

// LawText is a file or a photo of a law's text.
type LawText struct {
	Sha256 string `json:"sha256"`
	Pack   string `json:"pack"`
	Name   string `json:"name"`
	Mime   string `json:"mime"`
	By     string `json:"by"`
	At     string `json:"at"`
}

// Ask is an answer that is given for several classes at once.
type Ask struct {
	Classes []string        `json:"classes"`
	Field   string          `json:"field"`
	Status  string          `json:"status" enum:"confirmed,changed,unsure"`
	Section string          `json:"section,omitempty" maxLength:"200"`
	Text    string          `json:"text,omitempty" doc:"SHA-256 of a file that was put beside it"`
	Free    bool            `json:"free,omitempty"`
	Bound   json.RawMessage `json:"bound,omitempty"`
	ReadAs  string          `json:"read_as,omitempty" enum:"rated_continuous,shaft,nominal,peak" doc:"which figure an unstated power means"`
	Version int             `json:"version" doc:"version of the pack that was read"`
}

// storedAnswer is an answer with the pack that it belongs to.
type storedAnswer struct {
	Pack string `json:"pack"`
	limits.ReviewAnswer
}

func answerID(pack, class, field string) string { return pack + "/" + class + "." + field }

// reviewAnswers are the answers of all reviews, by pack.
func (w *Workshop) reviewAnswers(ctx context.Context) (map[string][]limits.ReviewAnswer, error) {
	rows, err := store.Register[storedAnswer](ctx, w.Store, store.RegisterReview)
	out := map[string][]limits.ReviewAnswer{}
	for _, r := range rows {
		out[r.Pack] = append(out[r.Pack], r.ReviewAnswer)
	}
	return out, err
}

// unread is a pack as it stands before any review, with the packs in force. ErrNotFound:
// there is none of that id.
func (w *Workshop) unread(id string) (*limits.RulePack, *packSet, error) {
	set := w.packSet()
	if p := set.unread[id]; p != nil {
		return p, set, nil
	}
	return nil, nil, store.ErrNotFound
}

// Review is the review of a pack as it stands. ErrNotFound: there is no such pack.
func (w *Workshop) Review(ctx context.Context, id string) (*LawReview, error) {
	p, set, err := w.unread(id)
	if err != nil {
		return nil, err
	}
	texts, err := store.Register[LawText](ctx, w.Store, store.RegisterLawText)
	if err != nil {
		return nil, err
	}
	answers := set.answers[id]
	read := p.Review(answers, set.own[id].By, set.alone)
	out := &LawReview{Pack: p.ID, Name: p.Name, Kind: p.Kind, AsOf: p.AsOf, Version: p.Version, Own: p.Own, MadeUp: p.MadeUp, BasedOn: p.BasedOn,
		Sources: p.Sources, Notes: p.Notes, Reviewed: read.Reviewed, Done: read.Reviewed.Done(w.today()), Texts: []LawText{}, Facts: []LawFact{}}
	for _, t := range texts {
		if t.Pack == id {
			out.Texts = append(out.Texts, t)
		}
	}
	slices.SortFunc(out.Texts, func(a, b LawText) int { return cmp.Or(strings.Compare(a.At, b.At), strings.Compare(a.Name, b.Name)) })
	_, out.Words = read.Standing(w.today())
	for _, field := range limits.Asked() {
		var same []string // what each fact of the field is told by
		first := len(out.Facts)
		for i := range p.Classes {
			k, now := &p.Classes[i], &read.Classes[i]
			f := factOf(p, k, field)
			n := slices.IndexFunc(answers, func(a limits.ReviewAnswer) bool { return a.Class == k.ID && a.Field == field && a.Version == p.Version })
			if n >= 0 {
				f.Answer = &answers[n]
				f.Now = now.Means(field)
				f.Waits = slices.ContainsFunc(read.Reviewed.Waiting, func(s string) bool { return strings.HasPrefix(s, k.Name+", "+limits.Called(field)) })
			}
			key := *f
			if key.Answer != nil {
				a := *key.Answer
				a.Class, a.At = "", ""
				key.Answer = &a
			}
			key.Classes, key.Names = nil, nil
			raw, err := json.Marshal(key)
			if err != nil {
				return nil, err
			}
			if at := slices.Index(same, string(raw)); at >= 0 {
				out.Facts[first+at].Classes = append(out.Facts[first+at].Classes, k.ID)
				out.Facts[first+at].Names = append(out.Facts[first+at].Names, k.Name)
				continue
			}
			same = append(same, string(raw))
			out.Facts = append(out.Facts, *f)
		}
	}
	return out, nil
}

func factOf(p *limits.RulePack, k *limits.Class, field string) *LawFact {
	f := &LawFact{Field: field, Title: limits.Called(field), Classes: []string{k.ID}, Names: []string{k.Name}, Means: k.Means(field),
		Question: k.Question(field), Free: slices.Contains(k.Free, field), Bound: k.Bound(field)}
	if f.Question != "" {
		f.Grade = "u"
	}
	f.Unstated = f.Question != "" && f.Bound != nil
	source := k.Source
	if fact, ok := k.Facts[field]; ok {
		source, f.Section, f.Grade = fact.Source, fact.Section, fact.Grade
	}
	for _, s := range p.Sources {
		if s.ID == source {
			f.Source = s.Title
		}
	}
	return f
}

// AnswerReview takes what a lead reads in the law of requirements, each for the classes in
// which it is the same, all or none. FieldErrors say what is wrong with an answer.
func (w *Workshop) AnswerReview(ctx context.Context, by, id string, asks ...*Ask) error {
	p, _, err := w.unread(id)
	if err != nil {
		return err
	}
	var changes []store.RegisterChange
	for _, ask := range asks {
		if changes, err = w.answered(ctx, changes, by, p, ask); err != nil {
			return err
		}
	}
	err = w.Store.PutChanges(ctx, w.sealChange, changes...)
	w.packs.Store(nil)
	return err
}

// answered puts one answer behind the changes of the register.
func (w *Workshop) answered(ctx context.Context, changes []store.RegisterChange, by string, p *limits.RulePack, ask *Ask) ([]store.RegisterChange, error) {
	id := p.ID
	if ask.Version != p.Version {
		return nil, quantity.Invalid("version", say.F("is %d, and version %d is in force", ask.Version, p.Version), say.T("read the pack as it stands now"))
	}
	if len(ask.Classes) == 0 {
		return nil, quantity.Invalid("classes", "is empty", "name the classes that the answer is for")
	}
	if ask.Text != "" {
		if _, err := store.Item[LawText](ctx, w.Store, store.RegisterLawText, id+"/"+ask.Text); errors.Is(err, store.ErrNotFound) {
			return nil, quantity.Invalid("text", "is no file of this law", "put the file or photo of the text beside it first")
		} else if err != nil {
			return nil, err
		}
	}
	for _, class := range ask.Classes {
		a := limits.ReviewAnswer{Class: class, Field: ask.Field, Status: ask.Status, Section: strings.TrimSpace(ask.Section), Text: ask.Text, Free: ask.Free,
			Bound: ask.Bound, ReadAs: ask.ReadAs, Version: p.Version, By: by, At: w.stamp()}
		if err := p.CheckAnswer(&a); err != nil {
			return nil, err
		}
		var err error
		if changes, err = addChange(changes, by, store.RegisterReview, answerID(id, class, ask.Field), storedAnswer{id, a}, w.stamp()); err != nil {
			return nil, err
		}
	}
	return changes, nil
}

func addChange(to []store.RegisterChange, by, kind, id string, v any, at string) ([]store.RegisterChange, error) {
	raw, err := json.Marshal(v)
	return append(to, store.RegisterChange{At: at, By: by, Kind: kind, ID: id, Data: raw}), err
}

// SecondReview is a second person who has read the same text and stands by an answer.
// FieldErrors: no such answer, or the same person.
func (w *Workshop) SecondReview(ctx context.Context, by, id string, ask *Ask) error {
	var changes []store.RegisterChange
	for _, class := range ask.Classes {
		at := answerID(id, class, ask.Field)
		a, err := store.Item[storedAnswer](ctx, w.Store, store.RegisterReview, at)
		switch {
		case errors.Is(err, store.ErrNotFound):
			return quantity.Invalid("field", say.F("%s of %s has no answer yet", ask.Field, class), say.T("answer it first"))
		case err != nil:
			return err
		case quantity.SameName(a.By, by):
			return quantity.Invalid("field", say.T("is an answer of your own"), say.T("let another one read the text and stand by it"))
		}
		a.Second = by
		if changes, err = addChange(changes, by, store.RegisterReview, at, a, w.stamp()); err != nil {
			return err
		}
	}
	err := w.Store.PutChanges(ctx, w.sealChange, changes...)
	w.packs.Store(nil)
	return err
}

// textKinds are what a law's text can come as.
var textKinds = []string{"application/pdf", "image/png", "image/jpeg", "text/plain"}

// MostText is how many bytes a file of a law has at most.
const MostText = 16 << 20

// PutLawText keeps a file or a photo of a law's text beside a pack. FieldErrors: what it is
// not.
func (w *Workshop) PutLawText(ctx context.Context, by, id, name string, data []byte) (*LawText, error) {
	if _, _, err := w.unread(id); err != nil {
		return nil, err
	}
	mime, _, _ := strings.Cut(http.DetectContentType(data), ";")
	switch {
	case len(data) == 0:
		return nil, quantity.Invalid("text", "is empty", "choose a file or a photo of the law's text")
	case len(data) > MostText:
		return nil, quantity.Invalid("text", say.F("has %d MB", len(data)>>20), say.F("give at most %d MB", MostText>>20))
	case !slices.Contains(textKinds, mime):
		return nil, quantity.Invalid("text", say.F("is %s", mime), say.T("give a PDF, a picture (PNG, JPEG) or plain text"))
	}
	sum := sha256.Sum256(data)
	t := &LawText{Sha256: hex.EncodeToString(sum[:]), Pack: id, Name: strings.TrimSpace(name), Mime: mime, By: by, At: w.stamp()}
	if t.Name == "" {
		t.Name = t.Sha256[:12]
	}
	if err := w.Store.PutPhoto(ctx, store.Photo{Sha256: t.Sha256, Mime: mime, Data: data}); err != nil {
		return nil, err
	}
	return t, w.Register(ctx, by, store.RegisterLawText, id+"/"+t.Sha256, t)
}

// LawTextFile is a text of a law as it was put beside its pack. ErrNotFound: there is none.
func (w *Workshop) LawTextFile(ctx context.Context, id, sha string) (*LawText, []byte, error) {
	t, err := store.Item[LawText](ctx, w.Store, store.RegisterLawText, id+"/"+sha)
	if err != nil {
		return nil, nil, err
	}
	p, err := w.Store.Photo(ctx, sha)
	if err != nil {
		return nil, nil, err
	}
	return &t, p.Data, nil
}

// LawDue names the law that vehicles standing here are ridden under and that nobody here
// has reviewed, or not for a year.
type LawDue struct {
	Pack  string `json:"pack"`
	Name  string `json:"name"`
	Words string `json:"words" doc:"what is wanting"`
}

// LawsDue lists them, by name.
func (w *Workshop) LawsDue(ctx context.Context) ([]LawDue, error) {
	if err := w.refreshLines(ctx); err != nil {
		return nil, err
	}
	places, err := w.Store.LawsInUse(ctx)
	if err != nil {
		return nil, err
	}
	out := []LawDue{}
	for _, id := range places {
		p := w.packSet().byID[id]
		if p == nil {
			continue
		}
		if read, words := p.Standing(w.today()); !read {
			out = append(out, LawDue{p.ID, p.Name, words})
		}
	}
	slices.SortFunc(out, func(a, b LawDue) int { return strings.Compare(a.Name, b.Name) })
	return out, nil
}

func (w *Workshop) today() string { return w.Now().Format(time.DateOnly) }
