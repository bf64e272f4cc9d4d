//! Builds the page's three files.

use std::fs;
use std::io::Write;
use std::path::Path;

use anyhow::{Context, Result};
use flate2::Compression;
use flate2::write::GzEncoder;
use wasm_bindgen_cli_support::Bindgen;

use crate::compiler::Compiler;

/// Writes the page. The one that was there stays until this one is whole.
pub(crate) fn build(root: &Path, web: &Path) -> Result<()> {
    let wasm = Compiler::find()?.run(root)?;
    let new = web.with_extension("new");
    let _ = fs::remove_dir_all(&new);
    fs::create_dir_all(&new).with_context(|| format!("{} can't be made", new.display()))?;
    let mut bindings = Bindgen::new();
    bindings.input_path(&wasm).out_name("otter-post").typescript(false).omit_default_module_path(false);
    bindings.remove_name_section(true).remove_producers_section(true);
    bindings.web(true)?.generate(&new).context("the JavaScript beside the game can't be written")?;
    let page = Path::new(env!("CARGO_MANIFEST_DIR")).join("index.html");
    fs::copy(&page, new.join("index.html")).with_context(|| format!("{} can't be copied", page.display()))?;
    let _ = fs::remove_dir_all(web);
    fs::rename(&new, web).with_context(|| format!("{} can't be written", web.display()))?;
    sizes(root, web)
}

/// Tells how large the page is.
fn sizes(root: &Path, web: &Path) -> Result<()> {
    let mut files: Vec<_> = fs::read_dir(web)?.flatten().map(|entry| entry.path()).collect();
    files.sort();
    let mut sum = (0, 0);
    for file in files {
        let bytes = fs::read(&file)?;
        let packed = packed(&bytes)?.len();
        println!(
            "{:>9} bytes, {:>9} gzipped  {}",
            bytes.len(),
            packed,
            file.strip_prefix(root).unwrap_or(&file).display()
        );
        sum = (sum.0 + bytes.len(), sum.1 + packed);
    }
    println!("{:>9} bytes, {:>9} gzipped  in all; `cargo page show` shows it", sum.0, sum.1);
    Ok(())
}

/// As it goes over the wire.
pub(crate) fn packed(bytes: &[u8]) -> Result<Vec<u8>> {
    let mut packer = GzEncoder::new(Vec::new(), Compression::best());
    packer.write_all(bytes)?;
    Ok(packer.finish()?)
}
