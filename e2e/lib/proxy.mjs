import { createServer, request } from 'node:http'

/** Stands between a browser and the application: it can be stopped, and can change what goes through. */
export async function proxy(target, change = {}) {
  const to = new URL(target)
  const server = createServer((asked, answer) => {
    const { method, url, headers } = asked
    const onward = request({ host: to.hostname, port: to.port, method, path: url, headers: { ...headers, 'accept-encoding': 'identity' } }, (r) => {
      const extra = change[url]
      const { 'content-length': length, ...rest } = r.headers
      answer.writeHead(r.statusCode, extra ? rest : r.headers)
      r.on('end', () => answer.end(extra?.()))
      r.pipe(answer, { end: false })
    })
    onward.on('error', () => answer.destroy())
    answer.on('close', () => onward.destroy())
    asked.pipe(onward)
  })
  await new Promise((done) => server.listen(0, '127.0.0.1', done))
  const { port } = server.address()
  return {
    url: `http://127.0.0.1:${port}`,
    stop: () => (server.closeAllConnections(), new Promise((done) => server.close(done))),
    start: () => new Promise((done) => server.listen(port, '127.0.0.1', done)),
  }
}
