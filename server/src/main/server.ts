// The server process. Started by the supervisor, which it tells its port.
import './quietOutput.ts';
import { pino } from 'pino';
import { readConfig } from '../config.ts';
import { startServer } from '../serve.ts';

const destination = pino.destination(1);
destination.on('error', () => undefined); // a log that cannot be written ends nothing
const logger = pino({ base: null }, destination);
try {
  const server = await startServer(readConfig(), (message, error) =>
    error ? logger.error({ err: error }, message) : logger.info(message),
  );
  process.send?.({ type: 'listening', port: server.port });
  let closing = false;
  const close = () => {
    if (closing) return;
    closing = true;
    void server.close().finally(() => process.exit(0));
  };
  process.on('SIGTERM', close);
  // Ctrl+C reaches the whole group; the supervisor stops this process in its turn
  process.on('SIGINT', () => undefined);
  process.on('disconnect', close);
} catch (e) {
  const code = (e as { code?: string }).code;
  const portTaken = `Port ${process.env['VARISCEN_PORT']} is taken by another program. Set VARISCEN_PORT to a free one.`;
  process.send?.({
    type: 'failed',
    message: code === 'EADDRINUSE' ? portTaken : String(e instanceof Error ? e.message : e),
  });
  logger.error({ err: e }, 'start');
  process.exit(1);
}
