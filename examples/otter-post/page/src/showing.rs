//! Shows the page to browsers on this machine.

use std::collections::HashMap;
use std::fs;
use std::path::Path;

use anyhow::{Context, Result, anyhow, bail};
use tiny_http::{Header, Response, Server};

use crate::building::packed;

/// A file as it is sent.
struct Sent {
    kind: &'static str,
    plain: Vec<u8>,
    packed: Vec<u8>,
}

/// Shows what was built until the command is ended. Only these files are sent, and only to this machine.
pub(crate) fn show(web: &Path, port: u16) -> Result<()> {
    let files = read(web)?;
    let server =
        Server::http(("127.0.0.1", port)).map_err(|problem| anyhow!("port {port} can't be listened on: {problem}"))?;
    println!("http://{}/  (end with Ctrl+C)", server.server_addr());
    for request in server.incoming_requests() {
        let name = request.url().split(['?', '#']).next().unwrap_or_default().trim_start_matches('/');
        let name = if name.is_empty() { "index.html" } else { name };
        let packs = request.headers().iter().any(|header| {
            header.field.equiv("Accept-Encoding")
                && header.value.as_str().split(',').any(|way| way.trim().starts_with("gzip"))
        });
        // A browser that goes away meanwhile is no fault.
        let _ = match files.get(name) {
            None => request.respond(Response::from_string("there is no such file").with_status_code(404)),
            Some(file) => {
                let body = if packs { &file.packed } else { &file.plain };
                let mut answer = Response::from_data(body.clone());
                for (name, value) in headers(file.kind, packs) {
                    if let Ok(header) = Header::from_bytes(name, value) {
                        answer.add_header(header);
                    }
                }
                request.respond(answer)
            }
        };
    }
    Ok(())
}

/// A page that shares its process with no other may read the clock to 5 µs; without these, to 100 µs.
fn headers(kind: &'static str, packed: bool) -> Vec<(&'static str, &'static str)> {
    let mut all = vec![
        ("Content-Type", kind),
        ("Cross-Origin-Opener-Policy", "same-origin"),
        ("Cross-Origin-Embedder-Policy", "require-corp"),
        ("Cache-Control", "no-store"),
    ];
    if packed {
        all.push(("Content-Encoding", "gzip"));
    }
    all
}

fn read(web: &Path) -> Result<HashMap<String, Sent>> {
    if !web.join("index.html").is_file() {
        bail!("there is no page in {}; run `cargo page build` first", web.display());
    }
    let mut files = HashMap::new();
    for path in fs::read_dir(web)?.flatten().map(|entry| entry.path()).filter(|path| path.is_file()) {
        let kind = match path.extension().and_then(|ending| ending.to_str()) {
            Some("html") => "text/html; charset=utf-8",
            Some("js") => "text/javascript; charset=utf-8",
            Some("wasm") => "application/wasm",
            _ => "application/octet-stream",
        };
        let plain = fs::read(&path).with_context(|| format!("{} can't be read", path.display()))?;
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        files.insert(name, Sent { kind, packed: packed(&plain)?, plain });
    }
    Ok(files)
}
