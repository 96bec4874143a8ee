"""Runs the scripts of the reference checks: the libraries are loaded once, and each script runs in a fork of its own.

sys.argv[1]: the socket it listens at. It ends when its standard input does. One request a connection: its length in eight
bytes, then JSON {"script", "arguments", "given", "folder"}; the answer is JSON {"status", "printed", "said"}.
"""
import contextlib, io, json, os, signal, socket, sys, threading, traceback
import cv2, numpy, OpenImageIO, PyOpenColorIO  # noqa: F401, only so that they are there


def received(connection, count):
    parts = []
    while count:
        part = connection.recv(min(count, 1 << 20))
        if not part:
            raise EOFError
        parts.append(part)
        count -= len(part)
    return b''.join(parts)


def answer(connection):
    asked = json.loads(received(connection, int.from_bytes(received(connection, 8), 'big')))
    os.chdir(asked['folder'])
    sys.argv = ['-c', *asked['arguments']]
    sys.stdin = io.StringIO(asked['given'])
    printed, said, status = io.StringIO(), io.StringIO(), 0
    with contextlib.redirect_stdout(printed), contextlib.redirect_stderr(said):
        try:
            exec(compile(asked['script'], '<script>', 'exec'), {'__name__': '__main__'})
        except SystemExit as end:
            status = end.code if isinstance(end.code, int) else 1 if end.code else 0
        except BaseException:
            traceback.print_exc()
            status = 1
    connection.sendall(json.dumps({'status': status, 'printed': printed.getvalue(), 'said': said.getvalue()}).encode())


def end_with_parent():
    sys.stdin.read()
    os._exit(0)


signal.signal(signal.SIGCHLD, signal.SIG_IGN)
listener = socket.socket(socket.AF_UNIX)
listener.bind(sys.argv[1])
listener.listen(16)
threading.Thread(target=end_with_parent, daemon=True).start()
while True:
    connection, _ = listener.accept()
    if os.fork() == 0:
        listener.close()
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        try:
            answer(connection)
        finally:
            os._exit(0)
    connection.close()
