//! What the commands write: which file is of which kind, which may be replaced, and all files of a
//! command together or none.

use std::io::{ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::process::ExitCode;
use std::sync::{Mutex, MutexGuard, PoisonError};

use anyhow::{Context, bail};
use sturdy_quilt::Picture;
use sturdy_quilt::document::FileBatch;

/// The kinds of files that the tool writes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(crate) enum Kind {
    Map,
    Archive,
    Tiles,
    Text,
    Table,
    Picture,
    Svg,
    GeoJson,
    Changes,
}

impl Kind {
    /// The endings of files with what each can be. The first that fits counts.
    const ENDINGS: [(&str, &[Kind]); 13] = [
        (".quilt.json", &[Kind::Map]),
        (".tiles.json", &[Kind::Tiles]),
        (".expects.json", &[]),
        (".legend.json", &[]),
        (".schema.json", &[]),
        (".json", &[Kind::Map, Kind::GeoJson]),
        (".zip", &[Kind::Archive]),
        (".txt", &[Kind::Text]),
        (".csv", &[Kind::Table]),
        (".png", &[Kind::Picture]),
        (".svg", &[Kind::Svg]),
        (".geojson", &[Kind::GeoJson]),
        (".changes", &[Kind::Changes]),
    ];

    fn ending(self) -> &'static str {
        let own = Kind::ENDINGS.iter().filter(|(_, kinds)| kinds.contains(&self));
        // That of one kind alone is the better name.
        own.min_by_key(|(_, kinds)| kinds.len()).map_or("", |(ending, _)| ending)
    }

    /// The kind that the path of an output asks for, one of those that a command can write. A
    /// pipe or a device has no ending, and gets the first.
    pub(crate) fn of(path: &Path, kinds: &[Kind]) -> anyhow::Result<Kind> {
        let shown = path.display();
        if let Some(archive) = path.ancestors().skip(1).find(|part| is_archive(part)) {
            let archive = archive.display();
            bail!("`{shown}` lies in an archive: write to the archive itself, `{archive}`");
        }
        if let (Ok(held), Some(kind)) = (path.metadata(), kinds.first())
            && !held.is_file()
            && !held.is_dir()
        {
            return Ok(*kind);
        }
        let name = path.file_name().unwrap_or_default().to_string_lossy().to_lowercase();
        let said = Kind::ENDINGS.iter().find(|(ending, _)| name.ends_with(ending));
        let said = said.map_or(&[][..], |(_, kinds)| kinds);
        match kinds.iter().find(|kind| said.contains(kind)) {
            Some(kind) => Ok(*kind),
            None => {
                let endings: Vec<&str> = kinds.iter().map(|kind| kind.ending()).collect();
                bail!("`{shown}` cannot be written: its name must end in {}", endings.join(" or "))
            }
        }
    }
}

/// Whether a path is that of an archive which is there.
pub(crate) fn is_archive(path: &Path) -> bool {
    path.extension().is_some_and(|end| end.eq_ignore_ascii_case("zip")) && path.is_file()
}

/// The files that a command writes, all of them or none.
pub(crate) struct Output {
    batch: FileBatch,
    /// Those of them that are copies.
    copies: Vec<PathBuf>,
    /// What is said once they are written.
    said: Vec<String>,
    /// The files that were read, none of which is replaced.
    inputs: Vec<PathBuf>,
}

impl Output {
    /// No files yet; none of the inputs is replaced.
    pub(crate) fn beside(inputs: impl IntoIterator<Item = PathBuf>) -> Output {
        let inputs = inputs.into_iter().filter_map(|path| path.canonicalize().ok()).collect();
        Output { batch: FileBatch::new(), copies: Vec::new(), said: Vec::new(), inputs }
    }

    /// Adds a file that the user has named, which is replaced where it is there.
    pub(crate) fn put(&mut self, path: &Path, bytes: Vec<u8>) -> anyhow::Result<()> {
        if path.canonicalize().is_ok_and(|held| self.inputs.contains(&held)) {
            bail!(
                "`{}` is one of the files that the map is made of: write to another file",
                path.display()
            );
        }
        self.batch.add(path, bytes);
        Ok(())
    }

    /// Adds a file that the user has not named. One that is there already, and is not the same,
    /// is only replaced where it goes with one of the user's that is replaced.
    pub(crate) fn put_unnamed(
        &mut self,
        path: &Path,
        bytes: Vec<u8>,
        goes_with: Option<&Path>,
    ) -> anyhow::Result<()> {
        let may_replace = goes_with.is_some_and(Path::exists);
        if path.exists() {
            let held = std::fs::read(path)
                .with_context(|| format!("`{}` cannot be read", path.display()))?;
            if held == bytes {
                return Ok(());
            }
            if !may_replace {
                bail!(
                    "`{}` is there already and differs: write to another folder, or move it away",
                    path.display()
                );
            }
        }
        self.put(path, bytes)
    }

    /// Adds a picture. Without a path that the user has named it goes to the default one, unless
    /// a picture that the tool has not drawn is there.
    pub(crate) fn put_picture(
        &mut self,
        path: Option<&Path>,
        default: &str,
        picture: &Picture,
    ) -> anyhow::Result<PathBuf> {
        match path {
            Some(path) => {
                self.put(path, drawn(picture)?)?;
                Ok(path.to_owned())
            }
            None => {
                self.put_default_picture(Path::new(default), picture)?;
                Ok(default.into())
            }
        }
    }

    /// Adds a picture with a name that the user has not given. It replaces no picture that the tool
    /// has not drawn.
    pub(crate) fn put_default_picture(
        &mut self,
        path: &Path,
        picture: &Picture,
    ) -> anyhow::Result<()> {
        if path.exists() && !std::fs::read(path).is_ok_and(|held| is_drawn(&held)) {
            bail!(
                "`{}` is there already and was not drawn by this tool: write to another place",
                path.display()
            );
        }
        self.put(path, drawn(picture)?)
    }

    /// Adds a copy of a file that a map names. One that is there must be the same.
    pub(crate) fn copy(&mut self, path: &Path, bytes: Vec<u8>) -> anyhow::Result<()> {
        if !path.exists() {
            self.say(format!("copied {}, which the map names", path.display()));
            self.copies.push(path.to_owned());
        }
        self.put_unnamed(path, bytes, None)
    }

    /// Says how large each file is that is no copy.
    pub(crate) fn say_sizes(&mut self) {
        let own = self.batch.files().filter(|(path, _)| !self.copies.iter().any(|c| c == path));
        let lines = own.map(|(path, bytes)| format!("{}: {bytes} bytes", path.display()));
        let lines: Vec<String> = lines.collect();
        self.said.extend(lines);
    }

    /// Says something once all files are written.
    pub(crate) fn say(&mut self, line: String) {
        self.said.push(line);
    }

    /// Writes all files, or none, and then says what was to be said.
    pub(crate) fn write(self, out: &mut dyn Write) -> anyhow::Result<()> {
        // A pipe can be waited for without end, which an interrupt must be able to stop.
        let is_stream = |path: &Path| path.metadata().is_ok_and(|held| !held.is_file());
        let whole = (!self.batch.files().any(|(path, _)| is_stream(path))).then(uninterrupted);
        self.batch.write()?;
        drop(whole);
        for line in self.said {
            writeln!(out, "{line}")?;
        }
        Ok(())
    }
}

/// The mark of the pictures that the tool draws: a `tEXt` chunk (PNG, ISO/IEC 15948, 11.3.4.3)
/// behind the signature and the header.
const MARK: &[u8] = b"tEXtSoftware\0sturdy-quilt";
const HEADER: usize = 33;

/// A picture as a PNG with the mark of the tool.
fn drawn(picture: &Picture) -> anyhow::Result<Vec<u8>> {
    let png = picture.to_png()?;
    let (header, rest) = png.split_at(HEADER);
    // The length counts what is behind the four letters of the chunk.
    let length = (MARK.len() as u32 - 4).to_be_bytes();
    let sum = crc32fast::hash(MARK).to_be_bytes();
    Ok([header, &length, MARK, &sum, rest].concat())
}

/// Whether the tool has drawn a picture.
fn is_drawn(png: &[u8]) -> bool {
    png.get(HEADER + 4..).is_some_and(|rest| rest.starts_with(MARK))
}

/// Held while files get their names.
static WRITING: Mutex<()> = Mutex::new(());

fn uninterrupted() -> MutexGuard<'static, ()> {
    WRITING.lock().unwrap_or_else(PoisonError::into_inner)
}

/// The exit code of a command that was interrupted, as shells have it: 128 and the signal.
pub(crate) const INTERRUPTED: i32 = 130;

/// Lets an interrupt end the tool before its files are written or after, and not in between.
pub(crate) fn end_on_interrupt() {
    // Where no handler can be set, an interrupt ends the tool as any program.
    ctrlc::set_handler(|| {
        let _whole = uninterrupted();
        std::process::exit(INTERRUPTED);
    })
    .ok();
}

/// Ends a command that could not say what it had to say: quietly where its reader has seen enough,
/// as `head` does.
pub(crate) fn unsaid(error: anyhow::Error) -> Result<ExitCode, anyhow::Error> {
    // What is said goes through no other error; files have their path around it.
    let is_plain = error.chain().count() == 1;
    match error.downcast_ref::<std::io::Error>().map(std::io::Error::kind) {
        Some(ErrorKind::BrokenPipe) => Ok(ExitCode::SUCCESS),
        Some(_) if is_plain => Err(error.context("the standard output cannot be written")),
        _ => Err(error),
    }
}
