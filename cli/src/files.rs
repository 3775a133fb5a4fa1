//! Files in, files out.

use crate::args::{RightWritten, Written};
use crate::problems;
use honest_twin::check::{Checked, verify};
use honest_twin::dialect::{self, LIBRARIES, Tags, read_library, read_project_tagged};
use honest_twin::facts::untrue;
use honest_twin::lang::{Form, LANGUAGES, Language, PlantFile, join_plant, read_project};
use honest_twin::model::sheet::Library;
use honest_twin::model::{Outside, Project};
use honest_twin::source::{Diagnostics, RowError, Source, codes};
use std::collections::BTreeSet;
use std::fs;
use std::io::{BufWriter, ErrorKind, Write};
use std::path::{Path, PathBuf};
use std::sync::atomic::{AtomicUsize, Ordering};
use std::sync::{Arc, Mutex};

/// Bytes of a file that are read at most; sources have a bound of their own.
const MOST_BYTES: u64 = 1 << 30;

/// Reads a file, if it is one: a pipe or a device may never end.
pub(crate) fn bytes(path: &Path) -> Result<Vec<u8>, String> {
    let cannot = |why: String| format!("cannot read {}: {why}", path.display());
    let about = fs::metadata(path).map_err(|e| cannot(e.to_string()))?;
    if !about.is_file() {
        return Err(cannot("it is no file".to_string()));
    }
    if about.len() > MOST_BYTES {
        return Err(cannot(format!("it has {} bytes; at most {MOST_BYTES} are read", about.len())));
    }
    fs::read(path).map_err(|e| cannot(e.to_string()))
}

/// Reads the text of a file.
pub(crate) fn read(path: &Path) -> Result<String, String> {
    // Old tools write old encodings: what is no UTF-8 is taken as Latin-1, which comments survive.
    Ok(String::from_utf8(bytes(path)?).unwrap_or_else(|e| e.into_bytes().iter().map(|b| char::from(*b)).collect()))
}

/// What was read as a source: nothing is written over it.
static SOURCES: Mutex<BTreeSet<PathBuf>> = Mutex::new(BTreeSet::new());

/// Reads the text of a source.
fn source(path: &Path) -> Result<String, String> {
    let text = read(path)?;
    if let (Ok(whole), Ok(mut sources)) = (fs::canonicalize(path), SOURCES.lock()) {
        sources.insert(whole);
    }
    Ok(text)
}

/// Writes a file: beside its place, and put there once it is whole, so that who is stopped in between leaves what was there.
pub(crate) fn write(path: &Path, content: impl AsRef<[u8]>) -> Result<(), String> {
    write_by(path, |out| out.write_all(content.as_ref()))
}

/// The same of what is not held as a whole: it is written down piece by piece.
pub(crate) fn write_by(path: &Path, content: impl Fn(&mut dyn Write) -> std::io::Result<()>) -> Result<(), String> {
    let cannot = |why: String| format!("cannot write {}: {why}", path.display());
    // What is there under another name, or by a link, is what is written.
    let place = fs::canonicalize(path).unwrap_or_else(|_| path.to_path_buf());
    if SOURCES.lock().is_ok_and(|sources| sources.contains(&place)) {
        return Err(cannot("it is a source that was read; name another file".to_string()));
    }
    let there = fs::metadata(&place);
    // A device or a pipe is written to as it is.
    if there.as_ref().is_ok_and(|about| !about.is_file()) {
        let open = fs::OpenOptions::new().write(true).open(&place);
        return open.and_then(|file| put_into(file, &content)).map_err(|e| cannot(e.to_string()));
    }
    let Some(name) = place.file_name() else { return Err(cannot("it names no file".to_string())) };
    let beside = place.with_file_name(format!(".{}.{}.part", name.to_string_lossy(), std::process::id()));
    let put = || {
        put_down(&beside, &content)?;
        if let Ok(about) = &there {
            fs::set_permissions(&beside, about.permissions())?;
        }
        fs::rename(&beside, &place)
    };
    put().map_err(|e| {
        // What is left of it helps nobody; that it cannot be taken away either is no news.
        let _ = fs::remove_file(&beside);
        cannot(e.to_string())
    })
}

/// Writes content to a new file.
fn put_down(path: &Path, content: impl Fn(&mut dyn Write) -> std::io::Result<()>) -> std::io::Result<()> {
    if fails() {
        let mut whole = Vec::new();
        content(&mut whole)?;
        fs::write(path, &whole[..whole.len() / 2])?;
        return Err(ErrorKind::StorageFull.into());
    }
    put_into(fs::File::create(path)?, content)
}

fn put_into(file: fs::File, content: impl Fn(&mut dyn Write) -> std::io::Result<()>) -> std::io::Result<()> {
    let mut out = BufWriter::new(file);
    content(&mut out)?;
    out.flush()
}

/// How many files were written so far.
static WRITTEN: AtomicUsize = AtomicUsize::new(0);

/// Whether this write is to fail half way: tests say which one, counted from 1, to see what a full disk leaves. Only a debug build
/// asks.
fn fails() -> bool {
    let number = WRITTEN.fetch_add(1, Ordering::Relaxed) + 1;
    let asked = || std::env::var("HONEST_TWIN_FAILING_WRITE").ok()?.parse().ok();
    cfg!(debug_assertions) && asked() == Some(number)
}

/// The files that paths stand for: a folder stands for all files in it whose language is known.
fn expand(paths: &[PathBuf]) -> Result<Vec<PathBuf>, String> {
    let mut out = Vec::new();
    for path in paths {
        if !path.is_dir() {
            out.push(path.clone());
            continue;
        }
        let entries = fs::read_dir(path).map_err(|e| format!("cannot read {}: {e}", path.display()))?;
        let mut inside: Vec<PathBuf> = entries
            .filter_map(|e| e.ok().map(|e| e.path()))
            .filter(|p| p.is_file() && Form::of_file(&p.to_string_lossy()).is_some())
            .collect();
        inside.sort();
        let own = fs::canonicalize(path).map_err(|e| format!("cannot read {}: {e}", path.display()))?;
        if let Some(far) = inside.iter().find(|p| fs::canonicalize(p).is_ok_and(|place| !place.starts_with(&own))) {
            return Err(format!("{} is a link that leads out of its folder; name what it leads to", far.display()));
        }
        if inside.is_empty() {
            return Err(format!("{} holds no file that ends in {}", path.display(), endings()));
        }
        out.extend(inside);
    }
    Ok(out)
}

fn endings() -> String {
    let list: Vec<String> = LANGUAGES.iter().map(|l| format!(".{}", l.ending())).collect();
    format!("{} or .xml", list.join(", "))
}

fn no_language(name: &str) -> String {
    format!("{name}: the ending names the language, and it is not {}", endings())
}

/// The dialects that are known: those of the user's sheets, then the shipped ones.
pub(crate) struct Known(Vec<Arc<Library>>);

impl Known {
    /// Reads the user's sheets. Problems are shown at their places.
    pub(crate) fn read(sheets: &[PathBuf]) -> Result<Known, String> {
        let mut all = Vec::new();
        for path in sheets {
            let blocks = path.with_extension("st");
            let sources = [path.clone(), blocks].map(|p| source(&p).map(|text| Source::new(p.to_string_lossy(), text)));
            let [sheet, blocks] = sources;
            let (sheet, blocks) = (sheet?, blocks?);
            let faulty = || format!("{} is not a sheet that can be used", path.display());
            let library = match read_library(&sheet, &blocks) {
                Ok(library) => Arc::new(library),
                Err(found) => {
                    problems::show(&found, &[sheet, blocks], false)?;
                    return Err(faulty());
                }
            };
            let (project, found) = read_project(vec![(blocks, Language::St)]);
            let sources = project.sources.clone();
            if let (None, found) = verify(project, found) {
                problems::show(&found, &sources, false)?;
                return Err(faulty());
            }
            // A sheet that is wrong about its own devices would be believed in every translation.
            let untrue = untrue(&library);
            if !untrue.is_empty() {
                let found = untrue.iter().map(|u| u.diagnostic(&library)).collect();
                problems::show(&Diagnostics(found), &[sheet], false)?;
                return Err(faulty());
            }
            all.push(library);
        }
        Ok(Known(all))
    }

    /// The dialect of a name.
    pub(crate) fn find(&self, name: &str) -> Result<Arc<Library>, String> {
        let own = self.0.iter().find(|l| l.sheet.name == name).cloned();
        own.or_else(|| dialect::library(name)).ok_or_else(|| {
            let all: Vec<String> = self.all().map(|l| l.sheet.name.clone()).collect();
            format!("there is no dialect `{name}`; there are {}", all.join(", "))
        })
    }

    /// All of them.
    pub(crate) fn all(&self) -> impl Iterator<Item = Arc<Library>> + '_ {
        self.0.iter().cloned().chain(LIBRARIES.iter().filter_map(|l| dialect::library(l.name)))
    }
}

/// True if a file, or one of a folder's, says its dialect itself.
fn says_dialect(path: &Path) -> Result<bool, String> {
    let texts = expand(&[path.to_path_buf()])?.iter().map(|p| read(p)).collect::<Result<Vec<_>, String>>()?;
    Ok(texts.iter().any(|t| dialect::said(t).is_some()))
}

/// What is said of sources is said of the first of two versions; of the other what is said of it, or else it is the
/// standard's, or says itself what it is.
pub(crate) fn other_side(written: &Written, right: &RightWritten, other: &Path) -> Written {
    let first = || written.tags.clone().filter(|_| says_dialect(other).unwrap_or(false));
    Written {
        from: right.right_from.clone(),
        tags: right.right_tags.clone().or_else(first),
        sheet: written.sheet.iter().chain(&right.right_sheet).cloned().collect(),
        given: Vec::new(),
        shown: Vec::new(),
    }
}

/// Reads files as one project, in the dialect that they say, or that the call says.
pub(crate) fn project(paths: &[PathBuf], written: &Written) -> Result<(Project, Diagnostics), String> {
    tagged(paths, written).map(|(project, problems, _)| (project, problems))
}

/// As [`project`], with the tag list.
fn tagged(paths: &[PathBuf], written: &Written) -> Result<(Project, Diagnostics, Tags), String> {
    let known = Known::read(&written.sheet)?;
    let mut files = Vec::new();
    let mut said: Option<String> = None;
    for path in expand(paths)? {
        let name = path.to_string_lossy().to_string();
        let Some(form) = Form::of_file(&name) else {
            let ending = path.extension().map(|e| e.to_string_lossy().to_ascii_lowercase());
            return Err(match ending.as_deref() {
                Some("toml") => format!("{name}: twin files are not there yet; name two versions"),
                _ => no_language(&name),
            });
        };
        let text = source(&path)?;
        if let Some(own) = dialect::said(&text) {
            match &said {
                Some(other) if other != own => {
                    return Err(format!("{name} is written in `{own}`, and another file of the project in `{other}`"));
                }
                _ => said = Some(own.to_string()),
            }
        }
        files.push((Source::new(name, text), form));
    }
    let name = said.or_else(|| written.from.clone()).unwrap_or_else(|| "iec".to_string());
    if name == "iec" {
        return match &written.tags {
            Some(_) => Err("a tag list names the addresses of a dialect; say which with --from".to_string()),
            None => {
                let (project, problems) = read_project(files);
                Ok((project, problems, Tags::default()))
            }
        };
    }
    let library = known.find(&name)?;
    let tags = match &written.tags {
        Some(path) => Tags::read(&source(path)?, &library.sheet).map_err(|list| rows(path, &list))?,
        None => Tags::default(),
    };
    let (project, problems) = read_project_tagged(files, &library, &tags);
    Ok((project, problems, tags))
}

/// Rows that are wrong, a line each.
pub(crate) fn rows(path: &Path, list: &[RowError]) -> String {
    problems::first_of(list, |row| format!("{}: {row}\n", path.display())).trim_end().to_string()
}

/// Joins a plant to a project: a program, or a plant file that names one.
fn plant(project: &mut Project, path: &Path) -> Result<Diagnostics, String> {
    let is_file = path.extension().is_some_and(|e| e.eq_ignore_ascii_case("toml"));
    let (said, paths) = if is_file {
        let said = PlantFile::read(&read(path)?).map_err(|e| format!("{}: {e}", path.display()))?;
        let base = path.parent().unwrap_or(Path::new(""));
        let paths = said.files.iter().map(|file| base.join(file)).collect();
        (said, paths)
    } else {
        (PlantFile::of_files(vec![path.display().to_string()]), expand(&[path.to_path_buf()])?)
    };
    let mut files = Vec::new();
    for path in paths {
        let name = path.to_string_lossy().to_string();
        let form = Form::of_file(&name).ok_or_else(|| no_language(&name))?;
        files.push((Source::new(name, source(&path)?), form));
    }
    Ok(join_plant(project, &said, files))
}

/// Reads and checks files as one project. Problems are shown; `None` if they are errors.
pub(crate) fn checked(
    paths: &[PathBuf],
    written: &Written,
    plants: &[PathBuf],
    json: bool,
) -> Result<Option<Checked>, String> {
    let (mut project, mut problems, tags) = tagged(paths, written)?;
    for path in plants {
        problems.0.extend(plant(&mut project, path)?.0);
    }
    let sources = project.sources.clone();
    let (checked, all) = verify(project, problems);
    let Some(checked) = checked else {
        problems::show(&all, &sources, json)?;
        return Ok(None);
    };
    // What a text was taken for that does not say it is told before anything rests on it.
    for hint in all.0.iter().filter(|hint| matches!(hint.code, codes::FRAGMENT | codes::SHIFTED)) {
        problems::warn(&format!("{}: {}\n", checked.project().place(hint.span), hint.message));
    }
    seen_outside(checked.outside_by(&tags), written).map(Some)
}

/// The project with what `--given` and `--shown` say of its variables.
pub(crate) fn seen_outside(checked: Checked, written: &Written) -> Result<Checked, String> {
    let given = written.given.iter().map(|name| (name, Outside::Given));
    let shown = written.shown.iter().map(|name| (name, Outside::Shown));
    given.chain(shown).try_fold(checked, |checked, (name, what)| checked.outside(name, what)).map_err(|e| e.to_string())
}
