// A body that stops arriving does not stay open: whoever sends it is gone, or means no good.
import type { NextFunction, Request, Response } from 'express';

const SILENT_MS = 30_000;

/** @param silentMs for which nothing of a body need arrive */
export const awakeBodies =
  (silentMs = SILENT_MS) =>
  (req: Request, _res: Response, next: NextFunction): void => {
    const hasBody = Number(req.get('content-length') ?? 0) > 0 || req.get('transfer-encoding') !== undefined;
    if (hasBody) {
      const { socket } = req;
      const end = () => req.destroy(new Error('The body stopped arriving.'));
      socket.setTimeout(silentMs, end);
      // afterwards the timeout of the connection is the server's own again
      const whole = () => {
        req.off('end', whole);
        req.off('close', whole);
        socket.off('timeout', end);
        socket.setTimeout(0);
      };
      req.on('end', whole);
      req.on('close', whole);
    }
    next();
  };
