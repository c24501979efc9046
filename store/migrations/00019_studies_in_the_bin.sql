-- +goose Up
-- A study or a comparison that is removed lies in the bin first. Who gave a study may remove it, as may the owner of its class.
ALTER TABLE surveys ADD COLUMN binned INTEGER;                           -- when it was put into the bin; NULL while it is not there
ALTER TABLE surveys ADD COLUMN owner INTEGER REFERENCES instructors (id) ON DELETE SET NULL;  -- who gave it; NULL where that was not kept
ALTER TABLE comparisons ADD COLUMN binned INTEGER;
CREATE INDEX surveys_owner ON surveys (owner);

-- +goose Down
SELECT RAISE(ABORT, 'this migration cannot be undone: restore a copy');
