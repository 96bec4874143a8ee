// The server's answers, with its sentences as errors.
export class ServerSays extends Error {
  constructor(
    message: string,
    readonly status: number,
    readonly data: unknown,
  ) {
    super(message)
  }
}

export async function api<T>(path: string, options: { method?: string; json?: unknown; body?: Blob } = {}): Promise<T> {
  let answer: Response
  try {
    answer = await fetch(path, {
      method: options.method ?? 'GET',
      headers: options.json === undefined ? {} : { 'content-type': 'application/json' },
      body: options.json === undefined ? options.body : JSON.stringify(options.json),
    })
  } catch {
    throw new ServerSays('The server does not answer. Your changes are kept here and saved when it is back.', 0, null)
  }
  const data = (await answer.json().catch(() => null)) as { message?: string } | null
  if (!answer.ok) throw new ServerSays(data?.message ?? `The server answered ${answer.status}.`, answer.status, data)
  return data as T
}

/** Sends a file; tells how much has gone. */
export function upload(
  file: Blob,
  progress: (share: number) => void = () => {},
): Promise<{ blob: string; bytes: number; kind: string }> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest()
    request.open('POST', '/api/blobs')
    request.upload.onprogress = event => {
      if (event.lengthComputable) progress(event.loaded / event.total)
    }
    request.onload = () => {
      let data: { message?: string; blob: string; bytes: number; kind: string }
      try {
        data = JSON.parse(request.responseText)
      } catch {
        return reject(new Error('The server did not take the file.'))
      }
      if (request.status < 300) resolve(data)
      else reject(new Error(data.message ?? 'The server did not take the file.'))
    }
    request.onerror = () => reject(new Error('The server does not answer; the file was not sent.'))
    request.send(file)
  })
}
