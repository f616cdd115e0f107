//! Making tile sets.

use std::collections::{HashMap, HashSet};
use std::sync::Arc;

use indexmap::IndexMap;

use super::footprint::{Part, split_facing};
use super::{
    ArtPage, ArtPlacement, ArtPlacementFault, Coverage, Fit, GroundMask, GroundMaskFault,
    NamePattern, SheetCut, SheetGrid, StatedArtPlacement, Tile, TileArt, TileFault, TileKey,
    TileSet, TileSetError, TileSource, TileSpec, check_name,
};
use crate::picture::{Color, Picture};
use crate::units::{PixelRect, PixelSize, WorldVec};

/// Makes a [`TileSet`].
#[derive(Clone, Debug, Default)]
pub struct TileSetBuilder {
    name: String,
    specs: Vec<TileSpec>,
    sheet: Option<Sheet>,
    pub(super) pictures: Vec<(String, Arc<ArtPage>)>,
    names: Option<NamePattern>,
    placement: StatedArtPlacement,
    palette: IndexMap<String, Color>,
    ground: Vec<(String, Vec<String>)>,
    mask: Option<GroundMask>,
    /// Whether pictures that are not there are not wanted.
    is_unseen: bool,
    schema: Option<Arc<str>>,
    picture_file: Option<String>,
    file: Option<String>,
}

/// A sheet with the picture that it is cut from, if that is there.
#[derive(Clone, Debug)]
struct Sheet {
    cut: Option<SheetCut>,
    page: Option<Arc<ArtPage>>,
}

impl TileSet {
    /// Returns a builder of a set with this name.
    pub fn builder(name: impl Into<String>) -> TileSetBuilder {
        TileSetBuilder::new(name.into())
    }

    /// Returns a set of named placeholder tiles in flat colours.
    ///
    /// # Errors
    /// A malformed or repeated name, or no name at all.
    pub fn flat<N: Into<String>>(
        name: impl Into<String>,
        tiles: impl IntoIterator<Item = N>,
    ) -> Result<TileSet, TileSetError> {
        let specs = tiles.into_iter().map(TileSpec::named);
        specs.fold(TileSet::builder(name), TileSetBuilder::tile).build()
    }
}

impl TileSetBuilder {
    pub(super) fn new(name: String) -> TileSetBuilder {
        TileSetBuilder { name, ..TileSetBuilder::default() }
    }

    /// Adds what is stated of one tile.
    #[must_use]
    pub fn tile(mut self, spec: TileSpec) -> TileSetBuilder {
        self.specs.push(spec);
        self
    }

    /// Takes the tiles from a sheet. Tiles that are not stated are there too, without a name.
    #[must_use]
    pub fn sheet(self, picture: &Picture, cut: SheetCut) -> TileSetBuilder {
        self.sheet_page(Some(Arc::new(ArtPage::from_picture(picture))), Some(cut))
    }

    /// Adds a picture that is not cut: tiles take the pixels from it that they state.
    #[must_use]
    pub fn uncut_sheet(self, picture: &Picture) -> TileSetBuilder {
        self.sheet_page(Some(Arc::new(ArtPage::from_picture(picture))), None)
    }

    /// A sheet of which the picture may not be there, or is shared with others.
    pub(crate) fn sheet_page(
        mut self,
        page: Option<Arc<ArtPage>>,
        cut: Option<SheetCut>,
    ) -> TileSetBuilder {
        self.sheet = Some(Sheet { cut, page });
        self
    }

    /// Adds a picture of its own for a tile that names it by its path.
    #[must_use]
    pub fn picture(self, path: impl Into<String>, picture: &Picture) -> TileSetBuilder {
        self.picture_page(path.into(), Arc::new(ArtPage::from_picture(picture)))
    }

    pub(crate) fn picture_page(mut self, path: String, page: Arc<ArtPage>) -> TileSetBuilder {
        self.pictures.push((path, page));
        self
    }

    /// Says where the JSON Schema of its document lies.
    pub(crate) fn schema(mut self, schema: Arc<str>) -> TileSetBuilder {
        self.schema = Some(schema);
        self
    }

    /// Does without the pictures that are not there: their tiles are drawn in flat colours.
    pub(crate) fn unseen(mut self) -> TileSetBuilder {
        self.is_unseen = true;
        self
    }

    setters! {
        /// Names the tiles of the sheet that have no name of their own by a pattern.
        names(names: some NamePattern);
    }

    /// States how many pixels of the pictures are one world unit. Default 1.
    #[must_use]
    pub const fn density(mut self, pixels: f64) -> TileSetBuilder {
        self.placement.density = Some(pixels);
        self
    }

    /// States the point of pictures that lies on their cell, see [`ArtPlacement::anchor`].
    #[must_use]
    pub const fn anchor(mut self, x: f64, y: f64) -> TileSetBuilder {
        self.placement.anchor = Some((x, y));
        self
    }

    /// States the point of cells on which that lies, see [`ArtPlacement::cell_anchor`].
    #[must_use]
    pub const fn cell_anchor(mut self, x: f64, y: f64) -> TileSetBuilder {
        self.placement.cell_anchor = Some((x, y));
        self
    }

    /// States how far pictures are moved then, in world units.
    #[must_use]
    pub const fn offset(mut self, offset: WorldVec) -> TileSetBuilder {
        self.placement.offset = Some(offset);
        self
    }

    /// Names a colour of its pictures, so that palettes of a map can replace it. Pixels of exactly
    /// this colour count, whatever their alpha.
    #[must_use]
    pub fn palette(mut self, name: impl Into<String>, color: Color) -> TileSetBuilder {
        self.palette.insert(name.into(), color);
        self
    }

    /// Gives tiles, written as in [`TileSet::find`], a ground class if they state none themselves.
    #[must_use]
    pub fn ground<T: Into<String>>(
        mut self,
        class: impl Into<String>,
        tiles: impl IntoIterator<Item = T>,
    ) -> TileSetBuilder {
        self.ground.push((class.into(), tiles.into_iter().map(Into::into).collect()));
        self
    }

    setters! {
        /// Gives the tiles of the sheet the ground classes that are painted over it, if nothing else
        /// gives them one.
        ground_mask(mask: some GroundMask);

        /// Names the file of the sheet, which a saved map will name in turn.
        picture_file(picture_file: some into String);

        /// Names the file of the set itself, which a saved map will name instead of holding the set.
        file(file: some into String);
    }

    /// Returns everything that keeps the set from being made; nothing when
    /// [`TileSetBuilder::build`] will succeed.
    pub fn faults(&self) -> Vec<TileSetError> {
        let mut faults = Vec::new();
        match self.grid() {
            Ok(grid) => drop(self.plan(grid.as_ref(), &mut faults)),
            Err(fault) => faults.push(fault),
        }
        // In the order of the tiles, which is that in which a person reads them.
        faults.sort_by_key(|fault| match fault {
            TileSetError::Tile { index, .. } => index + 1,
            _ => 0,
        });
        if let Err(wrong) = check_name(&self.name) {
            faults.insert(0, TileSetError::Name(wrong));
        }
        faults
    }

    /// Builds the set, and finds from the pixels which tiles are clear, holed and opaque.
    ///
    /// # Errors
    /// The first of [`TileSetBuilder::faults`].
    pub fn build(self) -> Result<TileSet, TileSetError> {
        check_name(&self.name).map_err(TileSetError::Name)?;
        let (grid, mut faults) = (self.grid()?, Vec::new());
        let plan = self.plan(grid.as_ref(), &mut faults);
        if let Some(fault) = faults.into_iter().next() {
            return Err(fault);
        }
        let (page, arts) = self.arts(grid.as_ref(), &plan);
        let by_key = Arc::new(by_key(&plan));
        let parts = plan.iter().filter_map(|planned| planned.part).collect();
        let made = plan.into_iter().zip(arts);
        let tiles: Arc<[Tile]> =
            made.map(|(Planned { key, spec, .. }, art)| Tile { key, spec, art }).collect();
        Ok(TileSet {
            by_key,
            name: self.name.into(),
            tiles,
            parts,
            page,
            sheet: self.sheet.and_then(|sheet| sheet.cut),
            grid: grid.map(|grid| (grid.columns(), grid.rows())),
            names: self.names,
            placement: self.placement,
            palette: self.palette.into_iter().collect(),
            schema: self.schema,
            picture_file: self.picture_file,
            file: self.file,
        })
    }
}

// From what was stated to the tiles: which there are, their faults, and their art.
/// One tile that is to be made.
pub(super) struct Planned {
    pub(super) key: TileKey,
    pub(super) spec: TileSpec,
    /// Its column and row in the sheet.
    pub(super) place: Option<(u32, u32)>,
    /// Which of the stated tiles it is.
    pub(super) index: Option<usize>,
    /// Which part of another one it is.
    pub(super) part: Option<Part>,
}

/// The tiles by their keys, those of the sheet by their places too. The first of a key counts.
pub(super) fn by_key(plan: &[Planned]) -> HashMap<TileKey, u32> {
    let mut keys = HashMap::with_capacity(plan.len());
    for (planned, at) in plan.iter().zip(0..) {
        keys.entry(planned.key.clone()).or_insert(at);
        if let Some((column, row)) = planned.place {
            keys.entry(TileKey::Place { column, row }).or_insert(at);
        }
    }
    keys
}

impl TileSetBuilder {
    fn grid(&self) -> Result<Option<SheetGrid>, TileSetError> {
        let Some(Sheet { cut: Some(cut), page }) = &self.sheet else { return Ok(None) };
        let grid = match page {
            Some(page) => cut.grid(page.size()),
            None => SheetGrid::unseen(cut),
        };
        grid.map(Some).map_err(|source| TileSetError::Sheet { set: self.name.clone(), source })
    }

    /// All tiles in their order, with their names and ground classes.
    fn plan(&self, grid: Option<&SheetGrid>, faults: &mut Vec<TileSetError>) -> Vec<Planned> {
        let mut plan = self.placed(grid, faults);
        let twice = self.names_stated_twice(faults);
        let keys = by_key(&plan);
        for (planned, at) in plan.iter().zip(0..) {
            if keys.get(&planned.key) != Some(&at)
                && let TileKey::Name(name) = &planned.key
                && !twice.contains(&**name)
            {
                let fault = TileFault::RepeatedName(name.to_string());
                faults.push(self.named_wrongly(planned, fault));
            }
        }
        if plan.is_empty() && faults.is_empty() {
            faults.push(TileSetError::Empty(self.name.clone()));
        }
        let set = || self.name.clone();
        if let Some(fault) = standing_fault(self.placement.resolved()) {
            faults.push(TileSetError::ArtPlacement { set: set(), fault });
        }
        let find = |tile: &str| keys.get(&tile.parse().ok()?).map(|&at| at as usize);
        for (index, spec) in self.specs.iter().enumerate() {
            let found = faults_of(spec, self.placement.resolved(), |tile| find(tile).is_some());
            faults.extend(found.into_iter().map(|fault| self.fault(index, fault)));
        }
        for (class, tiles) in &self.ground {
            for tile in tiles {
                match find(tile) {
                    Some(at) => drop(plan[at].spec.ground.get_or_insert_with(|| class.clone())),
                    None => faults.push(TileSetError::GroundTile {
                        set: set(),
                        class: class.clone(),
                        tile: tile.clone(),
                    }),
                }
            }
        }
        if let Some(mask) = &self.mask {
            let masked = self.lay_mask(mask, grid, &mut plan).into_iter();
            faults.extend(masked.map(|fault| TileSetError::Mask { set: set(), fault }));
        }
        self.add_parts(grid, &mut plan, faults);
        plan
    }

    /// Gives tiles that have no ground class yet the one that is painted over them.
    fn lay_mask(
        &self,
        mask: &GroundMask,
        grid: Option<&SheetGrid>,
        plan: &mut [Planned],
    ) -> Vec<GroundMaskFault> {
        let Some(sheet) = &self.sheet else { return vec![GroundMaskFault::NoSheet] };
        // Without the picture of the sheet, the mask says how large it is.
        let size = sheet.page.as_ref().map_or(mask.size(), |page| page.size());
        let mut faults = mask.faults(size);
        if !faults.is_empty() {
            return faults;
        }
        for Planned { key, spec, .. } in plan {
            let rect = match (&spec.source, grid) {
                (TileSource::Place(column, row), Some(grid)) => grid.tile(*column, *row),
                (TileSource::Pixels(rect), _) => Some(*rect),
                _ => None,
            };
            match rect.map_or(Ok(None), |rect| mask.class_of(key, rect)) {
                Ok(class) if spec.ground.is_none() => spec.ground = class.map(str::to_owned),
                Ok(_) => {}
                // What is painted over a tile that states its ground does not matter.
                Err(_) if spec.ground.is_some() => {}
                Err(fault) => faults.push(fault),
            }
        }
        faults
    }

    /// All tiles in their order: those of the grid, then the others.
    fn placed(&self, grid: Option<&SheetGrid>, faults: &mut Vec<TileSetError>) -> Vec<Planned> {
        let mut by_place: HashMap<(u32, u32), usize> = HashMap::new();
        let mut by_name: HashMap<&str, usize> = HashMap::new();
        for (index, spec) in self.specs.iter().enumerate() {
            if let Some(place) = spec.place()
                && by_place.insert(place, index).is_some()
            {
                faults.push(self.fault(index, TileFault::RepeatedPlace(place.0, place.1)));
            }
            if let Some(name) = spec.name.as_deref().filter(|_| spec.source == TileSource::Flat) {
                by_name.insert(name, index);
            }
        }
        let mut plan = Vec::new();
        let mut is_planned = vec![false; self.specs.len()];
        for (place, number) in grid.into_iter().flat_map(SheetGrid::places).zip(0..) {
            let (column, row) = place;
            let pattern = self.names.as_ref();
            let by_pattern = pattern.map(|names| names.name(&self.name, column, row, number));
            let named = by_pattern.as_deref().and_then(|name| by_name.get(name));
            let index = by_place.get(&place).or(named).copied();
            let mut spec =
                index.map_or_else(|| TileSpec::at(column, row), |at| self.specs[at].clone());
            spec.source = TileSource::Place(column, row);
            let name = spec.name.clone().or_else(|| by_pattern.clone());
            let key = match &name {
                Some(name) => TileKey::Name(name.as_str().into()),
                None => TileKey::Place { column, row },
            };
            if spec.name == by_pattern {
                spec.name = None;
            }
            let planned = Planned { key, spec, place: Some(place), index, part: None };
            if let Some(index) = index {
                is_planned[index] = true;
            } else if let Some(Err(wrong)) = name.as_deref().map(check_name) {
                faults.push(self.named_wrongly(&planned, TileFault::Name(wrong)));
            }
            plan.push(planned);
        }
        for (index, spec) in self.specs.iter().enumerate() {
            if let Some(Err(wrong)) = spec.name.as_deref().map(check_name) {
                faults.push(self.fault(index, TileFault::Name(wrong)));
            }
            if is_planned[index] {
                continue;
            }
            match self.misplaced(spec, grid) {
                Some(fault) => faults.push(self.fault(index, fault)),
                None => {
                    let name = spec.name.as_deref().unwrap_or_default();
                    let (key, spec) = (TileKey::Name(name.into()), spec.clone());
                    let index = Some(index);
                    plan.push(Planned { key, spec, place: None, index, part: None });
                }
            }
        }
        plan
    }

    fn names_stated_twice(&self, faults: &mut Vec<TileSetError>) -> HashSet<&str> {
        let (mut names, mut twice) = (HashSet::new(), HashSet::new());
        for (index, spec) in self.specs.iter().enumerate() {
            if let Some(name) = spec.name.as_deref().filter(|name| !names.insert(*name)) {
                faults.push(self.fault(index, TileFault::RepeatedName(name.to_owned())));
                twice.insert(name);
            }
        }
        twice
    }

    pub(super) fn named_wrongly(&self, planned: &Planned, fault: TileFault) -> TileSetError {
        let set = self.name.clone();
        match (planned.index, planned.place) {
            (None, Some((column, row))) => {
                let name = planned.key.to_string();
                TileSetError::PatternName { set, column, row, name, fault }
            }
            (index, _) => self.fault(index.unwrap_or(0), fault),
        }
    }

    fn fault(&self, index: usize, fault: TileFault) -> TileSetError {
        TileSetError::Tile { set: self.name.clone(), index, fault }
    }

    /// Why a tile that is not on the grid cannot be where it says.
    fn misplaced(&self, spec: &TileSpec, grid: Option<&SheetGrid>) -> Option<TileFault> {
        let sheet = self.sheet.as_ref();
        match (&spec.source, grid) {
            (TileSource::Place(column, row), Some(grid)) => Some(TileFault::OutsideSheet {
                column: *column,
                row: *row,
                columns: grid.columns(),
                rows: grid.rows(),
            })
            .filter(|_| grid.tile(*column, *row).is_none()),
            (TileSource::Place(..), None) => Some(TileFault::PlaceWithoutSheet),
            (TileSource::Flat, _) if sheet.is_some() && spec.color.is_none() => {
                Some(TileFault::NoPlace)
            }
            _ if spec.name.is_none() => Some(TileFault::NoName),
            (TileSource::Pixels(pixels), _) => match sheet {
                None => Some(TileFault::PixelsWithoutSheet),
                Some(Sheet { page: Some(page), .. })
                    if !page.size().holds(*pixels) || pixels.size.area() == 0 =>
                {
                    let picture = page.size();
                    Some(TileFault::OutsidePicture { pixels: *pixels, picture })
                }
                Some(_) => None,
            },
            (TileSource::Picture(path), _) => {
                let is_there = self.pictures.iter().any(|(held, _)| held == path);
                (!is_there && !self.is_unseen).then(|| TileFault::NoPicture(path.clone()))
            }
            (TileSource::Flat, _) => None,
        }
    }

    /// The page of the set, and where on it each tile has its pixels.
    fn arts(&self, grid: Option<&SheetGrid>, plan: &[Planned]) -> (Arc<ArtPage>, Vec<TileArt>) {
        let sheet = self.sheet.as_ref().and_then(|sheet| sheet.page.clone());
        let there: HashSet<&str> = self.pictures.iter().map(|(path, _)| &**path).collect();
        let is_flat = |planned: &&Planned| match &planned.spec.source {
            TileSource::Flat => true,
            TileSource::Place(..) | TileSource::Pixels(_) => sheet.is_none(),
            TileSource::Picture(path) => !there.contains(&**path),
        };
        let flat = Arc::new(flat_page(plan.iter().filter(is_flat)));
        let named = plan.iter().filter_map(|planned| match &planned.spec.source {
            TileSource::Picture(path) => Some(&**path),
            _ => None,
        });
        let used: HashSet<&str> = named.collect();
        let pictures: Vec<&(String, Arc<ArtPage>)> =
            self.pictures.iter().filter(|(path, _)| used.contains(&**path)).collect();
        // The first of a path counts.
        let mut place_of: HashMap<&str, usize> = HashMap::new();
        for ((path, _), at) in pictures.iter().zip(0..) {
            place_of.entry(path).or_insert(at);
        }
        let mut parts: Vec<&Arc<ArtPage>> = Vec::new();
        parts.extend(&sheet);
        let first_picture = parts.len();
        parts.extend(pictures.iter().map(|(_, page)| page));
        let flat_part = parts.len();
        parts.extend((flat.size().area() > 0).then_some(&flat));
        let (page, places) = match &*parts {
            [one] => {
                let place = PixelRect::new(0, 0, one.size());
                (Arc::clone(one), vec![place])
            }
            several => {
                let several: Vec<&ArtPage> = several.iter().map(|part| &***part).collect();
                let (page, places) = ArtPage::composed(&several);
                (Arc::new(page), places)
            }
        };
        let mut next_flat = 0;
        let art = |planned: &Planned| {
            let source = match (&planned.spec.source, grid) {
                (TileSource::Picture(path), _) if !is_flat(&planned) => {
                    places[first_picture + place_of.get(&**path).copied().unwrap_or(0)]
                }
                // A sheet lies in the upper left corner.
                (TileSource::Pixels(pixels), _) if sheet.is_some() => *pixels,
                (TileSource::Place(column, row), Some(grid)) if sheet.is_some() => {
                    grid.tile(*column, *row).unwrap_or_default()
                }
                _ => {
                    let place = places[flat_part];
                    next_flat += 1;
                    PixelRect::new(place.x + next_flat - 1, place.y, PixelSize::new(1, 1))
                }
            };
            let fit = match is_flat(&planned) {
                true => Fit::Stretched,
                false => Fit::Placed(placement_of(&planned.spec, self.placement.resolved())),
            };
            let art = TileArt { source, coverage: Coverage::Opaque, fit };
            let footprint = planned
                .part
                .and_then(|part| Some((plan[part.whole as usize].spec.footprint?, part.at)));
            let art = footprint.map_or(art, |(footprint, at)| footprint.part_of(art, at));
            match art.coverage {
                Coverage::Clear => art,
                _ => TileArt { coverage: page.coverage(art.source), ..art },
            }
        };
        let arts = plan.iter().map(art).collect();
        (page, arts)
    }
}

/// How a tile stands that says only what differs from its set.
pub(super) fn placement_of(spec: &TileSpec, set: ArtPlacement) -> ArtPlacement {
    ArtPlacement {
        anchor: spec.anchor.or(set.anchor),
        cell_anchor: spec.cell_anchor.or(set.cell_anchor),
        offset: spec.offset.unwrap_or(set.offset),
        ..set
    }
}

fn standing_fault(placement: ArtPlacement) -> Option<ArtPlacementFault> {
    let ArtPlacement { density, anchor, cell_anchor, offset } = placement;
    let is_part = |part: f64| (0.0..=1.0).contains(&part);
    let beyond = |point: Option<(f64, f64)>| point.filter(|(x, y)| !is_part(*x) || !is_part(*y));
    let is_near = |units: f64| (-65536.0..=65536.0).contains(&units);
    if !(0.001..=1000.0).contains(&density) {
        Some(ArtPlacementFault::Density(density))
    } else if let Some((x, y)) = beyond(anchor) {
        Some(ArtPlacementFault::Anchor(x, y))
    } else if let Some((x, y)) = beyond(cell_anchor) {
        Some(ArtPlacementFault::CellAnchor(x, y))
    } else if !is_near(offset.x) || !is_near(offset.y) {
        Some(ArtPlacementFault::Offset(offset.x, offset.y))
    } else {
        None
    }
}

/// What is wrong with a tile apart from its name and its pixels.
fn faults_of(spec: &TileSpec, set: ArtPlacement, is_tile: impl Fn(&str) -> bool) -> Vec<TileFault> {
    let mut faults = Vec::new();
    if spec.anchor.is_some() || spec.cell_anchor.is_some() || spec.offset.is_some() {
        faults.extend(standing_fault(placement_of(spec, set)).map(TileFault::ArtPlacement));
    }
    let unknown = |tile: &str| (!is_tile(tile)).then(|| TileFault::UnknownTile(tile.to_owned()));
    if let Some(animation) = &spec.animation {
        if animation.frames().len() == 0 {
            faults.push(TileFault::NoFrames);
        }
        for ((tile, ms), number) in animation.frames().zip(1..) {
            faults.extend((ms == 0).then_some(TileFault::FrameTime(number)));
            faults.extend(unknown(tile));
        }
    }
    faults.extend(spec.facings.iter().filter_map(|tile| unknown(split_facing(tile).0)));
    if !matches!(spec.facings.len(), 0 | 2 | 4) {
        faults.push(TileFault::Facings(spec.facings.len()));
    }
    faults.extend(spec.variants.iter().filter_map(|(tile, _)| unknown(tile)));
    let is_never =
        !spec.variants.is_empty() && spec.variants.iter().all(|(_, weight)| *weight == 0);
    faults.extend(is_never.then_some(TileFault::NoWeight));
    faults
}

/// A page with one pixel for each tile.
fn flat_page<'p>(flat: impl Iterator<Item = &'p Planned>) -> ArtPage {
    let color = |planned: &Planned| {
        planned.spec.color.unwrap_or_else(|| Color::of_name(&planned.key.to_string()))
    };
    let bytes: Vec<u8> = flat.flat_map(|planned| color(planned).to_bytes()).collect();
    let size = PixelSize::new((bytes.len() / 4) as u32, u32::from(!bytes.is_empty()));
    let picture =
        Picture::from_bytes(size, bytes).unwrap_or_else(|_| Picture::filled(size, Color::CLEAR));
    ArtPage::from_picture(&picture)
}
