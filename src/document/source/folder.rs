use std::path::{Path, PathBuf};

use super::{FileSource, SourceError, check_size};

/// So many bytes are asked for before they are read: a file can state any length.
const MAX_AT_ONCE: u64 = 1 << 28;

/// The files of a folder, of which none outside it can be reached, also not through links.
#[derive(Clone, Debug)]
pub struct FolderSource {
    folder: PathBuf,
    /// A file whose name is not UTF-8 text, with the text that stands for it.
    misnamed: Option<(String, std::ffi::OsString)>,
}

impl FolderSource {
    /// Returns the files of `folder`.
    pub fn new(folder: impl Into<PathBuf>) -> FolderSource {
        FolderSource { folder: folder.into(), misnamed: None }
    }

    /// Returns the folder of a file, and the name of the file in it: what
    /// [`Quilt::load`](crate::Quilt::load) takes for a map of which the path is known.
    pub fn of_file(path: &Path) -> (FolderSource, String) {
        let folder = path.parent().unwrap_or(Path::new(""));
        let held = path.file_name().unwrap_or_default();
        let mut name = held.to_string_lossy().into_owned();
        let mut source = FolderSource::new(folder);
        if held.to_str().is_none() {
            source.misnamed = Some((name.clone(), held.to_owned()));
        }
        // A path that ends so means a folder, and is no path of a file.
        if !name.is_empty() && path.as_os_str().as_encoded_bytes().ends_with(b"/") {
            name.push('/');
        }
        (source, name)
    }

    fn resolve(&self, path: &str) -> Result<PathBuf, SourceError> {
        let not_found = |error: std::io::Error| match error.kind() {
            std::io::ErrorKind::NotFound => SourceError::NotFound,
            _ => SourceError::Io(error),
        };
        let own = if self.folder.as_os_str().is_empty() { ".".as_ref() } else { &*self.folder };
        let root = own.canonicalize().map_err(not_found)?;
        let named = match &self.misnamed {
            Some((text, name)) if text == path => Path::new(name),
            _ => Path::new(path),
        };
        let file = root.join(named).canonicalize().map_err(not_found)?;
        if file.starts_with(&root) { Ok(file) } else { Err(SourceError::Outside) }
    }
}

impl FileSource for FolderSource {
    fn read(&self, path: &str, max_bytes: u64) -> Result<Vec<u8>, SourceError> {
        use std::io::Read;
        let path = self.resolve(path)?;
        // Opening a pipe would wait for its writer, and a device may have no end.
        if !path.metadata()?.is_file() {
            return Err(SourceError::NoFile);
        }
        let file = std::fs::File::open(path)?;
        let length = file.metadata()?.len();
        check_size(length, max_bytes)?;
        // One byte more, so that the end is seen without asking for memory again.
        let mut bytes = Vec::with_capacity(length.min(MAX_AT_ONCE) as usize + 1);
        // The file may grow meanwhile, or not know its size; one byte more than allowed tells.
        file.take(max_bytes.saturating_add(1)).read_to_end(&mut bytes)?;
        check_size(bytes.len() as u64, max_bytes)?;
        Ok(bytes)
    }

    fn names(&self, folder: &str) -> Vec<String> {
        let Ok(folder) = self.resolve(folder) else { return Vec::new() };
        let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
        let mut names: Vec<String> =
            entries.filter_map(|entry| entry.file_name().into_string().ok()).collect();
        names.sort_unstable();
        names
    }

    fn places_of(&self, name: &str) -> Vec<String> {
        // Folders of a game can hold very much; a hint is worth a short look only.
        const MAX_FOLDERS: usize = 200;
        let (mut found, mut folders) = (Vec::new(), vec![String::new()]);
        let mut looked_at = 0;
        while let Some(folder) = folders.pop().filter(|_| looked_at < MAX_FOLDERS) {
            looked_at += 1;
            for inner in self.names(&folder) {
                let path =
                    if folder.is_empty() { inner.clone() } else { format!("{folder}/{inner}") };
                if inner == name {
                    found.push(path);
                } else if self.folder.join(&path).is_dir() && !inner.starts_with('.') {
                    folders.push(path);
                }
            }
        }
        found.sort_unstable();
        found
    }

    fn label(&self, path: &str) -> String {
        self.folder.join(path).display().to_string()
    }
}
