//! Shows the page to browsers on this machine.
//!
//! ```text
//!   files, read once ──▶ a task for each client: head (16 kB, 5 s) ──▶ method, host, name ──▶ file
//! ```

use std::collections::HashMap;
use std::convert::Infallible;
use std::fs;
use std::net::SocketAddr;
use std::path::Path;
use std::sync::Arc;
use std::time::Duration;

use anyhow::{Context, Result, bail};
use http_body_util::Full;
use hyper::body::{Bytes, Incoming};
use hyper::server::conn::http1;
use hyper::service::service_fn;
use hyper::{Method, Request, Response, StatusCode, header};
use hyper_util::rt::{TokioIo, TokioTimer};
use tokio::net::TcpListener;

use crate::building::packed;

/// The head of a request is not larger than this, and is there within this span.
const LARGEST_HEAD: usize = 16 * 1024;
const LONGEST_HEAD: Duration = Duration::from_secs(5);
/// A client that takes nothing of its answer for so long is left.
const LONGEST_ANSWER: Duration = Duration::from_secs(60);

/// A file as it is sent.
struct Sent {
    kind: &'static str,
    plain: Bytes,
    packed: Bytes,
}

/// The files that are shown, by name.
type Files = HashMap<String, Sent>;

/// Shows what was built until the command is ended. Only these files are sent, and only to this machine.
pub(crate) fn show(web: &Path, port: u16) -> Result<()> {
    let files = read(web)?;
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build()?;
    runtime.block_on(async {
        let listener = TcpListener::bind(("127.0.0.1", port)).await;
        let listener = listener.with_context(|| format!("port {port} can't be listened on"))?;
        println!("http://{}/  (end with Ctrl+C)", listener.local_addr()?);
        serve(listener, files).await
    })
}

/// Serves files, each client on a task of its own.
async fn serve(listener: TcpListener, files: Files) -> Result<()> {
    let (own, files) = (listener.local_addr()?, Arc::new(files));
    loop {
        // A client that is gone before it is met is not a fault.
        let Ok((stream, _)) = listener.accept().await else { continue };
        let files = files.clone();
        tokio::spawn(async move {
            let answers = service_fn(|request| {
                let answer = answer(&request, &files, own);
                async move { Ok::<_, Infallible>(answer) }
            });
            let mut client = http1::Builder::new();
            client
                .timer(TokioTimer::new())
                .header_read_timeout(LONGEST_HEAD)
                .max_buf_size(LARGEST_HEAD)
                .keep_alive(false);
            // A client that goes away, or never reads, is not a fault either.
            let _ = tokio::time::timeout(LONGEST_ANSWER, client.serve_connection(TokioIo::new(stream), answers)).await;
        });
    }
}

/// The answer to a request.
fn answer(request: &Request<Incoming>, files: &Files, own: SocketAddr) -> Response<Full<Bytes>> {
    let refused = |status: StatusCode, text: &'static str| {
        let mut answer = Response::new(Full::new(Bytes::from_static(text.as_bytes())));
        *answer.status_mut() = status;
        answer
    };
    let is_head = request.method() == Method::HEAD;
    if !is_head && request.method() != Method::GET {
        let mut answer = refused(StatusCode::METHOD_NOT_ALLOWED, "only GET and HEAD are answered");
        answer.headers_mut().insert(header::ALLOW, header::HeaderValue::from_static("GET, HEAD"));
        return answer;
    }
    // A page from elsewhere that was led here by its own name reads nothing.
    let host = request.headers().get(header::HOST).and_then(|host| host.to_str().ok());
    let hosts = [format!("127.0.0.1:{}", own.port()), format!("localhost:{}", own.port())];
    if !host.is_some_and(|host| hosts.iter().any(|own| own.eq_ignore_ascii_case(host))) {
        return refused(StatusCode::MISDIRECTED_REQUEST, "open this page as 127.0.0.1 or localhost");
    }
    let name = request.uri().path().trim_start_matches('/');
    let Some(file) = files.get(if name.is_empty() { "index.html" } else { name }) else {
        return refused(StatusCode::NOT_FOUND, "there is no such file");
    };
    let packs = request.headers().get(header::ACCEPT_ENCODING).and_then(|ways| ways.to_str().ok());
    let packs = packs.is_some_and(|ways| ways.split(',').any(|way| way.trim().starts_with("gzip")));
    let body = if packs { &file.packed } else { &file.plain };
    let mut answer = Response::builder()
        .header(header::CONTENT_TYPE, file.kind)
        .header(header::CONTENT_LENGTH, body.len())
        // A page that shares its process with no other may read the clock to 5 µs; without these, to 100 µs.
        .header("cross-origin-opener-policy", "same-origin")
        .header("cross-origin-embedder-policy", "require-corp")
        .header("x-content-type-options", "nosniff")
        .header(header::CACHE_CONTROL, "no-store");
    if packs {
        answer = answer.header(header::CONTENT_ENCODING, "gzip");
    }
    let body = if is_head { Bytes::new() } else { body.clone() };
    answer.body(Full::new(body)).unwrap_or_else(|_| refused(StatusCode::INTERNAL_SERVER_ERROR, "no answer"))
}

/// The regular files of the folder itself; a link that leads out of it is passed over.
fn read(web: &Path) -> Result<Files> {
    if !web.join("index.html").is_file() {
        bail!("there is no page in {}; run `cargo page build` first", web.display());
    }
    let root = web.canonicalize().with_context(|| format!("{} can't be read", web.display()))?;
    let mut files = HashMap::new();
    for path in fs::read_dir(&root)?.flatten().map(|entry| entry.path()) {
        let is_own = path.canonicalize().is_ok_and(|real| real.parent() == Some(&root) && real.is_file());
        if !is_own {
            continue;
        }
        let kind = match path.extension().and_then(|ending| ending.to_str()) {
            Some("html") => "text/html; charset=utf-8",
            Some("js") => "text/javascript; charset=utf-8",
            Some("wasm") => "application/wasm",
            _ => "application/octet-stream",
        };
        let plain = fs::read(&path).with_context(|| format!("{} can't be read", path.display()))?;
        let name = path.file_name().unwrap_or_default().to_string_lossy().into_owned();
        files.insert(name, Sent { kind, packed: packed(&plain)?.into(), plain: plain.into() });
    }
    Ok(files)
}

#[cfg(test)]
mod tests {
    //! Promise (SECURITY.md): the server answers only browsers of this machine, with the page's own files, and waits for nobody.
    #![allow(clippy::unwrap_used, reason = "a test that can not go on panics")]

    use std::io::{Read, Write};
    use std::net::TcpStream;
    use std::time::Instant;

    use super::*;

    /// A page of some files, and a large one; where it is served.
    fn served(large: usize) -> (tempfile::TempDir, SocketAddr) {
        let outer = tempfile::tempdir().unwrap();
        let folder = outer.path().join("web");
        fs::create_dir_all(folder.join("sub")).unwrap();
        fs::write(folder.join("index.html"), "<p>page</p>").unwrap();
        fs::write(folder.join("large.wasm"), vec![7; large]).unwrap();
        fs::write(folder.join("sub/inner.txt"), "inner").unwrap();
        fs::write(outer.path().join("secret.txt"), "secret").unwrap();
        #[cfg(unix)]
        for (from, to) in [("../secret.txt", "out.txt"), ("index.html", "same.html")] {
            std::os::unix::fs::symlink(from, folder.join(to)).unwrap();
        }
        let files = read(&folder).unwrap();
        let (say, heard) = std::sync::mpsc::channel();
        std::thread::spawn(move || {
            let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(2).enable_all().build().unwrap();
            runtime.block_on(async {
                let listener = TcpListener::bind(("127.0.0.1", 0)).await.unwrap();
                say.send(listener.local_addr().unwrap()).unwrap();
                serve(listener, files).await.unwrap();
            });
        });
        (outer, heard.recv().unwrap())
    }

    fn sent(to: SocketAddr, head: &str) -> TcpStream {
        let mut stream = TcpStream::connect(to).unwrap();
        stream.write_all(head.as_bytes()).unwrap();
        stream
    }

    fn answered(to: SocketAddr, head: &str) -> String {
        let mut answer = Vec::new();
        let _ = sent(to, head).read_to_end(&mut answer);
        String::from_utf8_lossy(&answer).into_owned()
    }

    #[test]
    fn only_get_and_head_of_the_folders_own_files_from_this_host_are_answered() {
        let (_folder, to) = served(10);
        let ask = |method: &str, name: &str, host: &str| {
            answered(to, &format!("{method} {name} HTTP/1.1\r\nhost: {host}\r\n\r\n"))
        };
        let own = to.to_string();
        let page = ask("GET", "/", &own);
        assert!(page.starts_with("HTTP/1.1 200") && page.ends_with("<p>page</p>"), "{page}");
        let head = ask("HEAD", "/index.html?x=1", &own);
        assert!(
            head.starts_with("HTTP/1.1 200") && head.contains("content-length: 11") && !head.contains("<p>"),
            "{head}"
        );
        assert!(ask("GET", "/", &format!("LOCALHOST:{}", to.port())).starts_with("HTTP/1.1 200"));
        for (method, name, host, status) in [
            ("POST", "/", own.as_str(), "405"),
            ("PUT", "/x", &own, "405"),
            ("GET", "/", "evil.example", "421"),
            ("GET", "/", "127.0.0.1", "421"),
            ("GET", "/../secret.txt", &own, "404"),
            ("GET", "/%2e%2e/secret.txt", &own, "404"),
            ("GET", "//etc/hostname", &own, "404"),
            ("GET", "/sub/inner.txt", &own, "404"),
            ("GET", "/out.txt", &own, "404"),
        ] {
            let answer = ask(method, name, host);
            assert!(
                answer.starts_with(&format!("HTTP/1.1 {status}")) && !answer.contains("secret\n"),
                "{method} {name}: {answer}"
            );
        }
        #[cfg(unix)]
        assert!(ask("GET", "/same.html", &own).ends_with("<p>page</p>"));
        assert!(answered(to, "GET / HTTP/1.1\r\n\r\n").starts_with("HTTP/1.1 421"), "a host must be named");
        let large = format!("GET / HTTP/1.1\r\nhost: {own}\r\nx: {}\r\n\r\n", "y".repeat(20_000));
        assert!(answered(to, &large).starts_with("HTTP/1.1 431"));
    }

    #[test]
    fn clients_that_never_read_or_never_ask_keep_nobody_waiting() {
        let (_folder, to) = served(32 << 20);
        let ask = format!("GET /large.wasm HTTP/1.1\r\nhost: {to}\r\n\r\n");
        // Eight that ask for much and read nothing, eight that say half a head, eight that say nothing.
        let _never: Vec<_> = (0..8).flat_map(|_| [sent(to, &ask), sent(to, "GET / HT"), sent(to, "")]).collect();
        std::thread::sleep(Duration::from_millis(300));
        let began = Instant::now();
        let page = answered(to, &format!("GET / HTTP/1.1\r\nhost: {to}\r\n\r\n"));
        let took = began.elapsed();
        assert!(page.ends_with("<p>page</p>") && took < Duration::from_millis(200), "{took:?}");
        // Half a head is not waited for.
        let mut slow = sent(to, "GET / HTTP/1.1\r\n");
        slow.set_read_timeout(Some(Duration::from_secs(9))).unwrap();
        let began = Instant::now();
        let mut answer = Vec::new();
        let _ = slow.read_to_end(&mut answer);
        assert!(began.elapsed() < Duration::from_secs(8), "{:?}", began.elapsed());
    }
}
