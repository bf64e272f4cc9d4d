//! A compiler for web pages: the project's own with the target added, or Debian's with the source of `std`.

use std::path::{Path, PathBuf};
use std::process::Command;

use anyhow::{Context, Result, bail};

const TARGET: &str = "wasm32-unknown-unknown";

/// What builds WebAssembly here.
pub(crate) enum Compiler {
    /// The toolchain in use, which has the target.
    Own,
    /// Debian's, which builds `std` first, and its linker.
    Debian(PathBuf),
}

impl Compiler {
    /// The one that is here.
    pub(crate) fn find() -> Result<Compiler> {
        let said = Command::new("rustc").args(["--print", "sysroot"]).output().context("rustc can't be run")?;
        let sysroot = PathBuf::from(String::from_utf8_lossy(&said.stdout).trim());
        if sysroot.join("lib/rustlib").join(TARGET).join("lib").is_dir() {
            return Ok(Compiler::Own);
        }
        let debian = ["/usr/bin/cargo", "/usr/bin/rustc", "/usr/lib/rustlib/src/rust/library"].map(Path::new);
        match linker() {
            Some(linker) if debian.iter().all(|path| path.exists()) => Ok(Compiler::Debian(linker)),
            _ => bail!(
                "there is no compiler for web pages here: run `rustup target add {TARGET}`, or on Debian install rustc-web, \
                 cargo-web, rust-web-src and lld"
            ),
        }
    }

    /// Builds the game for pages; where the WebAssembly lies.
    pub(crate) fn run(&self, root: &Path) -> Result<PathBuf> {
        let target = root.join("target/for-pages");
        let mut command = match self {
            Compiler::Own => Command::new("cargo"),
            Compiler::Debian(linker) => {
                let mut command = Command::new("/usr/bin/cargo");
                command.env("RUSTC", "/usr/bin/rustc").env("RUSTC_BOOTSTRAP", "1");
                command.env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_LINKER", linker);
                command.args(["-Z", "build-std=std,panic_abort"]);
                command
            }
        };
        command.args(["build", "--package", "otter-post", "--profile", "page", "--target", TARGET, "--locked"]);
        // Pixels four at a time; every browser of the last years can.
        let flags = format!("-Ctarget-feature=+simd128 {}", std::env::var("PAGE_FLAGS").unwrap_or_default());
        command.env("CARGO_TARGET_WASM32_UNKNOWN_UNKNOWN_RUSTFLAGS", flags.trim());
        // This tool was started by another cargo, whose settings are not meant for the page.
        for own in ["CARGO_ENCODED_RUSTFLAGS", "RUSTFLAGS", "RUSTUP_TOOLCHAIN", "CARGO_TARGET_DIR"] {
            command.env_remove(own);
        }
        let done = command.arg("--target-dir").arg(&target).current_dir(root).status().context("cargo can't be run")?;
        if !done.success() {
            bail!("the game doesn't build for pages");
        }
        Ok(target.join(TARGET).join("page/otter-post.wasm"))
    }
}

/// LLVM's linker for WebAssembly, by any of its numbers.
fn linker() -> Option<PathBuf> {
    let folder = std::fs::read_dir("/usr/bin").ok()?;
    let names = folder.flatten().map(|entry| entry.path());
    names.filter(|path| path.file_name().is_some_and(|name| name.to_string_lossy().starts_with("wasm-ld"))).max()
}
