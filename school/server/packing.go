package server

import (
	"context"
	"strconv"
	"time"

	"cavix/store"
)

// packedTo is the note of the card up to which everything is packed.
const packedTo = "packed-to"

// packStep is the number of cards that are packed in one transaction; those who hand in meanwhile wait for it.
const packStep = 250

// Pack packs what cards of files of earlier versions ask, a few at a time and with pauses as long as the work, so that
// nobody waits. Where it was broken off it goes on the next time. Say is told how many cards were looked at, of how
// many.
func (svc *Service) Pack(ctx context.Context, say func(done, of int)) error {
	at, _, err := store.Noted(ctx, svc.store, packedTo)
	if err != nil {
		return err
	}
	from, _ := strconv.ParseInt(at, 10, 64) // 0 where nothing is noted
	last, err := lastCard(ctx, svc.store)
	if err != nil {
		return err
	}
	for from < last {
		to, began := min(from+packStep, last), time.Now()
		if err := svc.store.Write(ctx, func(tx *store.Tx) error {
			if err := packCards(ctx, tx, from, to); err != nil {
				return err
			}
			return store.Note(ctx, tx, packedTo, strconv.FormatInt(to, 10), began)
		}); err != nil {
			return err
		}
		from = to
		say(int(from), int(last))
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(time.Since(began)):
		}
	}
	return nil
}

// lastCard returns the highest number of a card; 0 where there is none.
func lastCard(ctx context.Context, q store.Queryer) (id int64, err error) {
	err = store.One(ctx, q, store.Named("server.lastCard", "SELECT coalesce(max(id), 0) FROM cards"), nil, &id)
	return id, err
}

// packCards packs the documents of the cards after one of them up to another.
func packCards(ctx context.Context, tx *store.Tx, after, to int64) error {
	_, err := tx.Exec(ctx, store.Named("server.packCards", `UPDATE cards SET item = packed(item), told = packed(told)
		WHERE id > ? AND id <= ? AND (typeof(item) = 'text' OR typeof(told) = 'text')`), after, to)
	return err
}
