package store

import (
	"cmp"
	"errors"
	"fmt"
	"hash/crc32"

	"gorm.io/gorm"
)

// schemaOfSums brought a sum to each row that holds what people wrote: SQLite notices what is wrong with its pages, and not a letter that a
// disk has changed within one.
const schemaOfSums = 6

// castagnoli is CRC-32C: IETF RFC 3720, appendix B.4.
var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// sumOf is the sum of a row: of what names it, and of what it holds.
func sumOf(document []byte, names ...any) uint32 {
	return crc32.Update(crc32.Checksum(fmt.Appendln(nil, names...), castagnoli), castagnoli, document)
}

// summed is a row that has a sum.
type summed interface {
	counted() uint32     // its sum by what it holds
	sum() *uint32        // its sum as it is stored
	key() map[string]any // the columns that name it
	what() string        // it is, for people
}

func (r *row) counted() uint32 {
	binned := int64(0)
	if r.BinnedAt != nil {
		binned = r.BinnedAt.UnixNano()
	}
	return sumOf([]byte(r.Document), r.ID, r.Revision, r.Name, binned, r.GivenFrom, r.GivenTo)
}
func (r *row) sum() *uint32        { return &r.Sum }
func (r *row) key() map[string]any { return map[string]any{"id": r.ID} }
func (r *row) what() string        { return fmt.Sprintf("bench %d", r.ID) }

func (r *entryRow) counted() uint32 {
	return sumOf([]byte(r.Document), r.ID, r.BenchID, r.At.UnixNano())
}
func (r *entryRow) sum() *uint32        { return &r.Sum }
func (r *entryRow) key() map[string]any { return map[string]any{"id": r.ID} }
func (r *entryRow) what() string {
	return fmt.Sprintf("entry %d in the log of bench %d", r.ID, r.BenchID)
}

func (r *pictureRow) counted() uint32     { return sumOf(r.Data, r.EntryID, r.N, r.Type) }
func (r *pictureRow) sum() *uint32        { return &r.Sum }
func (r *pictureRow) key() map[string]any { return map[string]any{"entry_id": r.EntryID, "n": r.N} }
func (r *pictureRow) what() string        { return fmt.Sprintf("picture %d of entry %d", r.N+1, r.EntryID) }

func (r *stateRow) counted() uint32 { return sumOf(r.Document, r.BenchID, r.Revision) }
func (r *stateRow) sum() *uint32    { return &r.Sum }
func (r *stateRow) key() map[string]any {
	return map[string]any{"bench_id": r.BenchID, "revision": r.Revision}
}
func (r *stateRow) what() string {
	return fmt.Sprintf("revision %d of bench %d, as it is kept", r.Revision, r.BenchID)
}

// whole returns an error of the database where a row does not hold what was stored.
func whole(r summed) error {
	if *r.sum() == r.counted() {
		return nil
	}
	return &Trouble{Kind: Corrupt, Err: fmt.Errorf("%s is not what was stored", r.what())}
}

// insert stores a new row with its sum.
func insert(tx *gorm.DB, r summed) error {
	*r.sum() = r.counted()
	if err := tx.Create(r).Error; err != nil {
		return err
	}
	if sum := r.counted(); sum != *r.sum() { // it has got its number only now
		*r.sum() = sum
		return tx.Model(r).Where(r.key()).UpdateColumn("sum", sum).Error
	}
	return nil
}

// pointer is a row's pointer that has a sum.
type pointer[R any] interface {
	*R
	summed
}

// eachRow goes through a table, one row at a time.
func eachRow[R any, P pointer[R]](db *gorm.DB, do func(P) error) error {
	rows, err := db.Model(new(R)).Rows()
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		var r R
		if err := db.ScanRows(rows, &r); err != nil {
			return &Trouble{Kind: Corrupt, Err: err} // a number is none, or a time
		}
		if err := do(&r); err != nil {
			return err
		}
	}
	return rows.Err()
}

// sumUp gives each row of a table its sum.
func sumUp[R any, P pointer[R]](tx *gorm.DB) error {
	var sums []func() error
	err := eachRow(tx, func(r P) error {
		key, sum := r.key(), r.counted()
		sums = append(sums, func() error { return tx.Model(new(R)).Where(key).UpdateColumn("sum", sum).Error })
		return nil
	})
	for _, put := range sums {
		if err != nil {
			break
		}
		err = put()
	}
	return err
}

// sumUpAll gives each row its sum that has none yet.
func sumUpAll(tx *gorm.DB) error {
	return errors.Join(sumUp[row](tx), sumUp[entryRow](tx), sumUp[pictureRow](tx), sumUp[stateRow](tx))
}

// judge tells of each row that does not hold what was stored, earlier states aside: what they hold is looked at when it is asked for.
func judge(db *gorm.DB, tell func(r summed, err error)) error {
	return errors.Join(judgeRows[row](db, tell), judgeRows[entryRow](db, tell), judgeRows[pictureRow](db, tell))
}

func judgeRows[R any, P pointer[R]](db *gorm.DB, tell func(r summed, err error)) error {
	return eachRow(db, func(r P) error {
		if err := whole(r); err != nil {
			tell(r, err)
		}
		return nil
	})
}

// check looks a database over before it is used: its pages, and each row. A bench that is damaged is put right from the state that is kept of
// its revision, which holds the same; which were is returned. Its error is of the database.
func check(db *gorm.DB) (mended []string, err error) {
	if damage := damaged(db, "quick_check(1)"); damage != nil {
		return nil, &Trouble{Kind: Corrupt, Err: errors.New(damage[0])}
	}
	var benches []*row
	var others error
	err = judge(db, func(r summed, err error) {
		if b, ok := r.(*row); ok {
			benches = append(benches, b)
		} else if others == nil {
			others = err
		}
	})
	if err = cmp.Or(err, others); err != nil {
		return nil, err
	}
	for _, b := range benches {
		if err := mend(db, b); err != nil {
			return mended, err
		}
		mended = append(mended, b.what())
	}
	return mended, nil
}

// mend puts a bench right from the state that is kept of its revision.
func mend(db *gorm.DB, b *row) error {
	kept, err := stateOf(db, b.ID, b.Revision)
	if err != nil {
		return whole(b)
	}
	rec, err := kept.record()
	if err != nil {
		return whole(b)
	}
	kept.Name, kept.BinnedAt, kept.GivenFrom, kept.GivenTo = rec.Bench.Name, b.BinnedAt, b.GivenFrom, b.GivenTo
	if kept.counted() != b.Sum { // its number was changed, or its sum
		return whole(b)
	}
	return db.Model(&row{ID: b.ID}).UpdateColumns(map[string]any{"name": kept.Name, "document": kept.Document}).Error
}

// damaged says what is wrong with a database's pages, by one of SQLite's pragmas; nil where nothing is.
func damaged(db *gorm.DB, pragma string) (damage []string) {
	if err := db.Raw("PRAGMA " + pragma).Scan(&damage).Error; err != nil {
		return []string{err.Error()}
	}
	if len(damage) == 1 && damage[0] == "ok" {
		return nil
	}
	return damage
}
