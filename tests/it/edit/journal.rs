//! Journals: changes that are appended beside a save, and done again on it.

use std::fs;
use std::path::{Path, PathBuf};
use std::time::Duration;

use sturdy_quilt::document::{
    BytesFault, Journal, JournalCut, JournalError, JournalRecords, Limits, Replayed, SaveError,
};
use sturdy_quilt::edit::History;

use super::*;
#[cfg(feature = "png")]
use crate::scene;
use crate::scene::Change;

/// A folder with a save and the path of its journal.
struct Place {
    _folder: tempfile::TempDir,
    save: PathBuf,
    journal: PathBuf,
}

impl Place {
    fn new(quilt: &Quilt) -> Place {
        let folder = tempfile::tempdir().unwrap();
        let (save, journal) =
            (folder.path().join("garden.quilt.json"), folder.path().join("garden.journal"));
        quilt.save(&save).unwrap();
        #[cfg(feature = "png")]
        for (name, sheet) in [("art.png", scene::art_sheet()), ("tall.png", scene::tall_sheet())] {
            fs::write(folder.path().join(name), sheet.to_png().unwrap()).unwrap();
        }
        Place { _folder: folder, save, journal }
    }

    /// Loads the save and replays its journal.
    fn load(&self) -> Result<(Quilt, Journal, Replayed), JournalError> {
        let open = Journal::open(&self.journal, &self.save)?;
        let mut quilt = Quilt::open(&self.save).unwrap();
        let (journal, replayed) = open.replay(&mut quilt, &Limits::default())?;
        Ok((quilt, journal, replayed))
    }

    fn refused(&self) -> JournalError {
        match Journal::open(&self.journal, &self.save) {
            Ok(_) => panic!("it was opened"),
            Err(error) => error,
        }
    }

    fn files(&self) -> Vec<(PathBuf, Vec<u8>)> {
        let folder = self.save.parent().unwrap();
        let mut files: Vec<PathBuf> =
            fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
        files.sort();
        files.into_iter().map(|path| (path.clone(), fs::read(path).unwrap())).collect()
    }
}

fn beside(path: &Path, ending: &str) -> PathBuf {
    PathBuf::from(format!("{}{ending}", path.display()))
}

fn save_of(quilt: &Quilt) -> impl FnOnce() -> Result<Vec<u8>, SaveError> + Send + 'static {
    let snapshot = quilt.clone();
    move || Ok(snapshot.to_json()?.into_bytes())
}

/// Walls and holes, one edit after the other.
fn some_edits(quilt: &mut Quilt, count: i32) -> Vec<Changeset> {
    let mut each = |x: i32| {
        let at = CellPos::new(3 * x - 4, x % 3 - 1);
        let edit = quilt.edit(&format!("edit {x}"), |pen| match x % 3 {
            2 => pen.erase("soil", CellPos::new(x % 2, 0)),
            _ => pen.put("soil", at, "garden/wall"),
        });
        edit.unwrap().changes
    };
    (0..count).map(&mut each).collect()
}

/// A step of a game that keeps a journal.
#[derive(Clone, Debug)]
enum Step {
    Change(Change),
    Compact,
    Reload,
}

fn any_step() -> impl Strategy<Value = Step> {
    prop_oneof![
        6 => any_change().prop_map(Step::Change),
        1 => Just(Step::Compact),
        1 => Just(Step::Reload),
    ]
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    #[cfg(feature = "png")]
    fn a_journal_leads_from_its_save_to_the_map(
        quilt in any_quilt(12),
        steps in prop::collection::vec(any_step(), 1..12),
    ) {
        let place = Place::new(&quilt);
        let (mut quilt, mut journal, _) = place.load().unwrap();
        // A map keeps the characters of the legends that it was loaded with.
        let mut is_as_loaded = true;
        for step in steps.iter().chain([&Step::Reload]) {
            match step {
                Step::Change(change) => if let Some(changes) = make(&mut quilt, change) {
                    journal.append(&changes);
                },
                Step::Compact => {
                    journal.compact(save_of(&quilt)).wait().unwrap();
                    is_as_loaded = false;
                    prop_assert_eq!(fs::read_to_string(&place.save).unwrap(), quilt.to_json().unwrap());
                }
                Step::Reload => {
                    drop(journal);
                    let (again, opened, replayed) = place.load().unwrap();
                    prop_assert_eq!(&replayed.cut, &None);
                    prop_assert!(again.same_as(&quilt));
                    if is_as_loaded {
                        prop_assert_eq!(again.to_json().unwrap(), quilt.to_json().unwrap());
                    }
                    is_as_loaded = true;
                    (quilt, journal) = (again, opened);
                }
            }
        }
    }
}

#[test]
fn a_journal_that_ends_early_keeps_its_whole_records() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    let mut states = vec![quilt.clone()];
    for changes in some_edits(&mut quilt, 4) {
        journal.append(&changes);
        let mut next = states.last().unwrap().clone();
        next.apply(&changes).unwrap();
        states.push(next);
    }
    journal.close().unwrap();
    let whole = fs::read(&place.journal).unwrap();
    let starts: Vec<usize> =
        JournalRecords::read(&whole).unwrap().each().map(|record| record.at() as usize).collect();
    for len in 0..whole.len() {
        let place = Place::new(&doc_quilt());
        fs::write(&place.journal, &whole[..len]).unwrap();
        let (quilt, journal, replayed) = place.load().unwrap();
        let sound = starts.iter().filter(|start| **start < len).count();
        let sound = if starts.contains(&len) || sound == 0 { sound } else { sound - 1 };
        assert_eq!(replayed.changes.len(), sound, "cut at {len}");
        assert!(quilt.same_as(&states[sound]), "cut at {len}");
        let is_torn = len > starts[0] && !starts.contains(&len);
        assert_eq!(replayed.cut.is_some(), is_torn, "cut at {len}");
        if let Some(JournalCut { at, bytes, kept, .. }) = replayed.cut {
            assert_eq!((at, bytes), (starts[sound] as u64, (len - starts[sound]) as u64));
            assert_eq!(fs::read(kept).unwrap(), whole[starts[sound]..len]);
        }
        // What is appended next is found.
        let mut quilt = quilt;
        journal.append(&some_edits(&mut quilt, 1)[0]);
        drop(journal);
        let (again, _, replayed) = place.load().unwrap();
        assert!(again.same_as(&quilt) && replayed.cut.is_none(), "cut at {len}");
    }
}

#[test]
fn a_damaged_journal_keeps_what_lies_before() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    for changes in some_edits(&mut quilt, 3) {
        journal.append(&changes);
    }
    journal.close().unwrap();
    let whole = fs::read(&place.journal).unwrap();
    let starts: Vec<usize> =
        JournalRecords::read(&whole).unwrap().each().map(|record| record.at() as usize).collect();
    for at in 0..whole.len() {
        let place = Place::new(&doc_quilt());
        let mut damaged = whole.clone();
        damaged[at] ^= 1 << (at % 8);
        fs::write(&place.journal, &damaged).unwrap();
        if at < starts[0] {
            let before = place.files();
            let error = place.refused();
            assert!(matches!(error, JournalError::Bytes { at: 0, .. }), "{error}");
            assert_eq!(place.files(), before);
            continue;
        }
        let sound = starts.iter().filter(|start| **start <= at).count() - 1;
        let (_, _, replayed) = place.load().unwrap();
        assert_eq!(replayed.changes.len(), sound, "flipped at {at}");
        let cut = replayed.cut.unwrap();
        assert_eq!(cut.at, starts[sound] as u64);
        assert_eq!(fs::read(cut.kept).unwrap(), damaged[starts[sound]..]);
        assert_eq!(fs::read(&place.journal).unwrap(), whole[..starts[sound]]);
    }
}

#[test]
fn a_crash_while_compacting_loses_nothing() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    for changes in some_edits(&mut quilt, 3) {
        journal.append(&changes);
    }
    journal.flush().unwrap();
    let (old_save, old_journal) =
        (fs::read(&place.save).unwrap(), fs::read(&place.journal).unwrap());
    journal.compact(save_of(&quilt)).wait().unwrap();
    journal.close().unwrap();
    let (new_save, new_journal) =
        (fs::read(&place.save).unwrap(), fs::read(&place.journal).unwrap());
    assert!(new_journal.len() < old_journal.len());
    assert_eq!(JournalRecords::read(&new_journal).unwrap().each().len(), 0);

    // After which step, with what each file holds then.
    let torn = &new_journal[..new_journal.len() / 2];
    let states = [
        ("the new journal is being written", &old_save, &old_journal, Some(torn)),
        ("it lies beside the old one", &old_save, &old_journal, Some(&*new_journal)),
        ("the save has its name", &new_save, &old_journal, Some(&*new_journal)),
        ("the journal has its name", &new_save, &new_journal, None),
    ];
    for (state, save, journal, next) in states {
        let place = Place::new(&doc_quilt());
        fs::write(&place.save, save).unwrap();
        fs::write(&place.journal, journal).unwrap();
        if let Some(next) = next {
            fs::write(beside(&place.journal, ".next"), next).unwrap();
        }
        let (mut held, opened, replayed) = place.load().unwrap();
        assert!(held.same_as(&quilt) && replayed.cut.is_none(), "{state}");
        assert!(!beside(&place.journal, ".next").exists(), "{state}");
        let more = held.edit("more", |pen| pen.put("soil", CellPos::new(9, 9), "garden/wall"));
        opened.append(&more.unwrap().changes);
        drop(opened);
        assert!(place.load().unwrap().0.same_as(&held), "{state}");
    }
}

#[test]
fn changes_go_on_while_a_save_is_made() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    let edits = some_edits(&mut quilt, 2);
    journal.append(&edits[0]);
    let mut first = quilt.clone();
    first.apply(&edits[1].inverse()).unwrap();
    let (begin, begun) = std::sync::mpsc::channel::<()>();
    let make = save_of(&first);
    let compacting = journal.compact(move || {
        begun.recv().unwrap();
        make()
    });
    journal.append(&edits[1]);
    journal.flush().unwrap();
    assert!(compacting.take().is_none(), "it waits for its save, and the journal does not");
    begin.send(()).unwrap();
    compacting.wait().unwrap();
    drop(journal);
    assert_eq!(fs::read_to_string(&place.save).unwrap(), first.to_json().unwrap());
    let (again, _, replayed) = place.load().unwrap();
    assert_eq!(replayed.changes.len(), 1);
    assert!(again.same_as(&quilt));
}

#[test]
fn a_later_save_is_not_replaced_by_an_earlier_one() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    let (begin, begun) = std::sync::mpsc::channel::<()>();
    let make = save_of(&quilt);
    let early = journal.compact(move || {
        begun.recv().unwrap();
        make()
    });
    journal.append(&some_edits(&mut quilt, 1)[0]);
    journal.compact(save_of(&quilt)).wait().unwrap();
    begin.send(()).unwrap();
    early.wait().unwrap();
    drop(journal);
    assert!(place.load().unwrap().0.same_as(&quilt));
}

#[test]
fn a_save_that_cannot_be_made_leaves_the_journal() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    journal.append(&some_edits(&mut quilt, 1)[0]);
    let refused = || Err(SaveError::NotLoaded { layer: "soil".to_owned() });
    let error = journal.compact(refused).wait().unwrap_err();
    assert!(matches!(error, JournalError::Save(SaveError::NotLoaded { .. })), "{error}");
    let error = journal.compact(|| panic!("the game has a fault")).wait().unwrap_err();
    assert!(matches!(error, JournalError::Io { .. }), "{error}");
    drop(journal);
    let (again, _, replayed) = place.load().unwrap();
    assert!(again.same_as(&quilt) && replayed.changes.len() == 1);
}

#[test]
fn undone_steps_are_appended_too() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    let mut history = History::new();
    for changes in some_edits(&mut quilt, 3) {
        journal.append(&changes);
        history.add(changes);
    }
    let undone = history.undo(&mut quilt).unwrap().unwrap();
    assert_eq!(undone.label(), "edit 2");
    journal.append(&undone);
    let undone = history.undo_own(&mut quilt).unwrap().unwrap();
    journal.append(&undone.changes);
    journal.append(&history.redo(&mut quilt).unwrap().unwrap());
    drop(journal);
    let (again, _, replayed) = place.load().unwrap();
    assert!(again.same_as(&quilt));
    assert_eq!(replayed.changes.len(), 6);
}

#[test]
fn a_status_tells_how_far_it_has_come() {
    let place = Place::new(&doc_quilt());
    let open = Journal::open(&place.journal, &place.save).unwrap();
    let mut quilt = Quilt::open(&place.save).unwrap();
    let open = open.with_sync_every(Duration::from_secs(3600));
    let (journal, _) = open.replay(&mut quilt, &Limits::default()).unwrap();
    for changes in some_edits(&mut quilt, 5) {
        journal.append(&changes);
    }
    while journal.status().written < 5 {
        std::thread::yield_now();
    }
    let status = journal.status();
    assert_eq!((status.appended, status.synced, &status.fault), (5, 0, &None));
    assert_eq!(status.bytes, fs::metadata(&place.journal).unwrap().len());
    journal.flush().unwrap();
    assert_eq!(journal.status().synced, 5);
    journal.append(&Changeset::between("nothing", &quilt, &quilt).unwrap());
    assert_eq!(journal.status().appended, 5, "nothing is no record");
}

#[test]
fn journals_are_synced_at_the_interval() {
    let place = Place::new(&doc_quilt());
    let open = Journal::open(&place.journal, &place.save).unwrap();
    let mut quilt = Quilt::open(&place.save).unwrap();
    let open = open.with_sync_every(Duration::from_millis(5));
    let (journal, _) = open.replay(&mut quilt, &Limits::default()).unwrap();
    journal.append(&some_edits(&mut quilt, 1)[0]);
    while journal.status().synced < 1 {
        std::thread::sleep(Duration::from_millis(1));
    }
}

#[test]
fn only_one_can_append() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    assert!(matches!(place.refused(), JournalError::InUse { .. }));
    journal.append(&some_edits(&mut quilt, 1)[0]);
    journal.flush().unwrap();
    // Others may look at it.
    let bytes = fs::read(&place.journal).unwrap();
    assert_eq!(
        JournalRecords::read(&bytes).unwrap().each().next().unwrap().label().unwrap(),
        "edit 0"
    );
    // Compacting puts another file in its place, which is locked as well.
    journal.compact(save_of(&quilt)).wait().unwrap();
    assert!(matches!(place.refused(), JournalError::InUse { .. }));
    drop(journal);
    assert!(place.load().is_ok());
}

#[test]
fn a_journal_that_does_not_belong_is_refused() {
    let place = Place::new(&doc_quilt());
    let (mut quilt, journal, _) = place.load().unwrap();
    let changes = some_edits(&mut quilt, 1).remove(0);
    journal.append(&changes);
    drop(journal);
    let whole = fs::read(&place.journal).unwrap();

    quilt.save(&place.save).unwrap();
    let before = place.files();
    let error = place.refused();
    assert!(matches!(error, JournalError::OtherSave { .. }), "{error}");
    fs::write(&place.journal, "a letter").unwrap();
    let error = place.refused();
    assert!(
        matches!(&error, JournalError::Bytes { source: BytesFault::Other { .. }, .. }),
        "{error}"
    );
    fs::write(&place.journal, &whole).unwrap();
    assert_eq!(place.files(), before, "nothing is lost");

    doc_quilt().save(&place.save).unwrap();
    // A record of a later version is no damage.
    let mut later = changes.to_bytes();
    later[4] += 1;
    let end = later.len() - 4;
    let sum = crc32fast::hash(&later[..end]).to_le_bytes();
    later[end..].copy_from_slice(&sum);
    fs::write(&place.journal, [&*whole, &later].concat()).unwrap();
    let before = place.files();
    let error = place.refused();
    let is_later = matches!(&error, JournalError::Bytes { at, source: BytesFault::Version { found: 2, .. }, .. }
        if *at == whole.len() as u64);
    assert!(is_later, "{error}");
    assert_eq!(place.files(), before);

    // One that is sound, but does not lead on from the ones before.
    fs::write(&place.journal, [&*whole, &changes.to_bytes()].concat()).unwrap();
    let open = Journal::open(&place.journal, &place.save).unwrap();
    let mut map = doc_quilt();
    let error = open.replay(&mut map, &Limits::default()).unwrap_err();
    assert!(matches!(error, JournalError::Record { number: 2, .. }), "{error}");
    assert!(map.same_as(&doc_quilt()));
}

#[test]
fn without_a_save_there_is_no_journal() {
    let folder = tempfile::tempdir().unwrap();
    let (save, journal) =
        (folder.path().join("none.quilt.json"), folder.path().join("none.journal"));
    let error = Journal::open(&journal, &save).unwrap_err();
    assert!(error.to_string().ends_with("none.quilt.json` cannot be read"), "{error}");
    assert!(!journal.exists());
}

/// A journal of version 1, which must be read for ever: the files never change.
#[test]
fn a_journal_of_version_1_is_read() {
    let fixtures = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/fixtures/version-1");
    let folder = tempfile::tempdir().unwrap();
    for name in ["yard.quilt.json", "yard.journal"] {
        fs::copy(fixtures.join(name), folder.path().join(name)).unwrap();
    }
    let (save, path) = (folder.path().join("yard.quilt.json"), folder.path().join("yard.journal"));
    let open = Journal::open(&path, &save).unwrap();
    let mut quilt = Quilt::open(&save).unwrap();
    let before = quilt.clone();
    let records: Vec<Vec<u8>> = open.records().map(|record| record.bytes().to_vec()).collect();
    let (_journal, replayed) = open.replay(&mut quilt, &Limits::default()).unwrap();
    let labels: Vec<&str> = replayed.changes.iter().map(Changeset::label).collect();
    assert_eq!(labels, ["cells", "values and markers", "layers", "back"]);
    assert!(quilt.same_as(&Quilt::open(fixtures.join("yard-after.quilt.json")).unwrap()));
    for (changes, record) in replayed.changes.iter().zip(records) {
        assert_eq!(changes.to_bytes(), record, "{}", changes.label());
    }
    for changes in replayed.changes.iter().rev() {
        quilt.apply(&changes.inverse()).unwrap();
    }
    assert!(quilt.same_as(&before));
}
