// A body that stops arriving does not stay open: whoever sends it is gone, or means no good.
import type { NextFunction, Request, Response } from 'express';

const SILENT_MS = 30_000;

export function awakeBodies(req: Request, _res: Response, next: NextFunction): void {
  const hasBody = Number(req.get('content-length') ?? 0) > 0 || req.get('transfer-encoding') !== undefined;
  if (hasBody) {
    const { socket } = req;
    const end = () => req.destroy(new Error('The body stopped arriving.'));
    socket.setTimeout(SILENT_MS, end);
    const whole = () => {
      socket.setTimeout(0);
      socket.off('timeout', end);
    };
    req.once('end', whole);
    req.once('close', whole);
  }
  next();
}
