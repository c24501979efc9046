package rack

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"

	"cavix/core/exercise"
	"cavix/core/kinds"
	"cavix/core/refusal"
	"cavix/locale"
	"cavix/store"
)

// Banked is an item of an instructor's bank.
type Banked struct {
	Key     string          // fingerprint of the one that comes with the program; "" where it is the instructor's own
	ID      int64           // of the instructor's version; 0 where there is none
	Body    json.RawMessage // as it counts now
	Retired bool            // no card is dealt from it
}

// ErrBankFull is for one more item of a kind than an instructor may keep.
var ErrBankFull = fmt.Errorf("a bank holds up to %d items of your own", MaxBank)

// MaxBank is the most items of one kind that an instructor keeps.
const MaxBank = 300

// fingerprint tells the items of a bank apart by their text, whatever words it is spoken in.
func fingerprint(body json.RawMessage) string {
	return fmt.Sprintf("%x", sha256.Sum256([]byte(locale.Documents().Prose(string(body)))))[:16]
}

// Bank lists an instructor's bank of a kind: what comes with the program, as changed, then the own.
func (svc *Service) Bank(ctx context.Context, owner int64, k exercise.Banked) ([]Banked, error) {
	return bankOf(ctx, svc.store, owner, k)
}

func bankOf(ctx context.Context, rd store.Queryer, owner int64, k exercise.Banked) ([]Banked, error) {
	own, err := listBank(ctx, rd, owner, k.Name())
	if err != nil {
		return nil, err
	}
	var out []Banked
	for _, body := range k.Shipped() {
		b := Banked{Key: fingerprint(body), Body: body}
		if at := slices.IndexFunc(own, func(o BankedRow) bool { return o.Replaces == b.Key }); at >= 0 {
			b.ID, b.Body, b.Retired = own[at].ID, json.RawMessage(own[at].Body), own[at].Retired
			own = slices.Delete(own, at, at+1)
		}
		out = append(out, b)
	}
	for _, o := range own {
		out = append(out, Banked{ID: o.ID, Body: json.RawMessage(o.Body), Retired: o.Retired})
	}
	return out, nil
}

// KeepBanked keeps an item of an instructor's bank: the one that stood there, or a new one where that is the zero
// value.
func (svc *Service) KeepBanked(ctx context.Context, owner int64, k exercise.Banked, b Banked) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error {
		own, err := listBank(ctx, tx, owner, k.Name())
		if err != nil {
			return err
		}
		if b.ID == 0 && len(own) >= MaxBank {
			return refusal.New("lines", "bank.keep-banked", "max_bank", MaxBank)
		}
		if b.ID == 0 && b.Key != "" {
			for _, o := range own { // another tab was faster
				if o.Replaces == b.Key {
					b.ID = o.ID
				}
			}
		}
		_, err = saveBanked(ctx, tx,
			owner,
			BankedRow{ID: b.ID, Kind: k.Name(), Replaces: b.Key, Body: string(b.Body), Retired: b.Retired},
		)
		return err
	})
}

// DropBanked forgets an instructor's version of an item; one that comes with the program counts again as it came.
func (svc *Service) DropBanked(ctx context.Context, owner, id int64) error {
	return svc.store.Write(ctx, func(tx *store.Tx) error { return deleteBanked(ctx, tx, owner, id) })
}

// FillBanks gives blocks whose kind has a bank the instructor's, where that differs from what comes with the program:
// what can be dealt is then part of the sheet, and later changes of the bank leave it alone.
func (svc *Service) FillBanks(ctx context.Context, owner int64, sheet *exercise.Sheet) error {
	for i := range sheet.Blocks {
		b := &sheet.Blocks[i]
		kind, _ := kinds.All.Find(b.Kind)
		k, banked := kind.(exercise.Banked)
		if !banked {
			continue
		}
		list, err := svc.Bank(ctx, owner, k)
		if err != nil {
			return err
		}
		b.Bank = nil
		changed := false
		bank := []json.RawMessage{}
		for _, it := range list {
			changed = changed || it.ID != 0
			if !it.Retired {
				bank = append(bank, it.Body)
			}
		}
		if changed {
			b.Bank = bank
		}
	}
	return nil
}
