//! Loading a map on a thread of its own.

use std::sync::{Arc, Mutex, PoisonError};
use std::thread::JoinHandle;
use std::time::Duration;

use super::loader::{Loaded, Loader};
use crate::document::input::{LoadProgress, LoadStage, Watch, file_problem};
use crate::document::limits::Limits;
use crate::document::problem::{LoadError, Problems};
use crate::document::source::FileSource;
/// How long a load sleeps between two looks for a file that has not arrived.
const LOOK_AGAIN: Duration = Duration::from_millis(5);

/// A map that is being loaded on a thread of its own. Made by [`Loader::start`].
///
/// No call waits but [`Loading::wait`]. Dropping it cancels the load and waits for its thread to
/// end, which is soon: between two rows of cells at the latest, or when the file that is just
/// being read or decoded is.
#[derive(Debug)]
pub struct Loading {
    watch: Arc<Watch>,
    outcome: Arc<Mutex<Option<Result<Loaded, LoadError>>>>,
    thread: Option<JoinHandle<()>>,
}

impl Loader {
    /// Begins to load a map on a thread of its own. Files that are still coming (see
    /// [`FileSource::is_coming`]) are waited for.
    ///
    /// ```
    /// use std::sync::Arc;
    /// use sturdy_quilt::{Loader, MemorySource};
    ///
    /// let mut files = MemorySource::default();
    /// files.add("yard.quilt.json", r#"{ "format": "sturdy-quilt/map", "version": 1,
    ///     "lattice": { "cell": [16, 16] }, "layers": [{ "name": "soil" }] }"#);
    /// let mut loading = Loader::new().start(Arc::new(files), "yard.quilt.json");
    /// // Every frame:
    /// # let quilt =
    /// loop {
    ///     match loading.take() {
    ///         Some(loaded) => break loaded?.quilt,
    ///         None => assert!(loading.progress().done <= 1),
    ///     }
    ///     # std::thread::yield_now();
    /// }
    /// # ;
    /// # assert_eq!(quilt.layers().len(), 1);
    /// # Ok::<(), sturdy_quilt::LoadError>(())
    /// ```
    pub fn start(
        &self,
        source: Arc<dyn FileSource + Send + Sync>,
        path: impl Into<String>,
    ) -> Loading {
        let watch = Arc::new(Watch::default());
        let outcome = Arc::new(Mutex::new(None));
        let (loader, path) = (self.clone(), path.into());
        let (shared_watch, shared_outcome) = (Arc::clone(&watch), Arc::clone(&outcome));
        let work = move || {
            let loaded = loader.load_patiently(&*source, &path, &shared_watch);
            *shared_outcome.lock().unwrap_or_else(PoisonError::into_inner) = Some(loaded);
            shared_watch.enter(LoadStage::Ended, 0);
        };
        let builder = std::thread::Builder::new().name("sturdy-quilt load".to_owned());
        let thread = match builder.spawn(work) {
            Ok(thread) => Some(thread),
            Err(error) => {
                let message = format!("no thread could be started to load it: {error}");
                *outcome.lock().unwrap_or_else(PoisonError::into_inner) = Some(Err(ended(message)));
                watch.enter(LoadStage::Ended, 0);
                None
            }
        };
        Loading { watch, outcome, thread }
    }

    /// Loads, and waits for the files that are coming.
    fn load_patiently(
        &self,
        source: &(dyn FileSource + Send + Sync),
        path: &str,
        watch: &Watch,
    ) -> Result<Loaded, LoadError> {
        loop {
            let loaded = self.load_watched(source, path, Some(watch));
            let awaited = match &loaded {
                Err(error) if !watch.is_cancelled() => error.awaited().to_vec(),
                _ => return loaded,
            };
            if awaited.is_empty() {
                return loaded;
            }
            while awaited.iter().any(|path| source.is_coming(path)) && !watch.is_cancelled() {
                std::thread::sleep(LOOK_AGAIN);
            }
        }
    }
}

impl Loading {
    /// Returns how far the load has come.
    pub fn progress(&self) -> LoadProgress {
        self.watch.progress()
    }

    /// Returns whether the load has ended, so that [`Loading::take`] gives something.
    pub fn is_finished(&self) -> bool {
        self.thread.as_ref().is_none_or(JoinHandle::is_finished)
    }

    /// Returns the map, or why there is none, once the load has ended; `None` before, and after it
    /// was taken.
    pub fn take(&mut self) -> Option<Result<Loaded, LoadError>> {
        if !self.is_finished() {
            return None;
        }
        let outcome = self.outcome.lock().unwrap_or_else(PoisonError::into_inner).take();
        match self.thread.take().map(JoinHandle::join) {
            // A load does not panic, but the source of a game may.
            Some(Err(_)) => Some(Err(ended("its thread ended in a panic".to_owned()))),
            _ => outcome,
        }
    }

    /// Asks it to end soon; it ends with an error that says so ([`LoadError::is_cancelled`]),
    /// unless it was about to end anyway.
    pub fn cancel(&self) {
        self.watch.cancel();
    }

    /// Waits until it has ended.
    ///
    /// # Errors
    /// As [`Loader::load`].
    pub fn wait(mut self) -> Result<Loaded, LoadError> {
        while !self.is_finished() {
            std::thread::sleep(Duration::from_millis(1));
        }
        self.take().unwrap_or_else(|| Err(ended("it was taken before".to_owned())))
    }
}

impl Drop for Loading {
    fn drop(&mut self) {
        self.cancel();
        if let Some(thread) = self.thread.take() {
            thread.join().ok();
        }
    }
}

fn ended(message: String) -> LoadError {
    let mut problems = Problems::new(&Limits::default());
    problems.push(file_problem("load", message, None));
    problems.into_error()
}
