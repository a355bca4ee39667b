// What a process writes to its log never ends it: a full disk is told where people see it.
for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);
