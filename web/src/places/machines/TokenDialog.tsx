// How a machine joins: its token, which is shown this once, and what is typed there.
import { CopyButton, Modal } from '@mantine/core';
import type { MachineToken } from '@variscen/contract';
import styles from './MachinesPlace.module.css';

const LOOPBACK = /^(localhost|127\.|\[::1\])/;

export function TokenDialog({ token: { name, token }, onClose }: { token: MachineToken; onClose: () => void }) {
  const isHereOnly = LOOPBACK.test(location.hostname);
  const address = isHereOnly ? `http://THIS-MACHINE:${location.port}` : location.origin;
  return (
    <Modal opened onClose={onClose} title={`“${name}” may join`} size={680}>
      <p>
        On that machine, in a checkout of the same version, type these two lines. The token is shown this once: Variscen
        keeps only its hash.
      </p>
      <Command label="the token" text={`echo ${token} > variscen-token`} />
      <Command label="the command" text={`./node --join ${address} --token-file variscen-token`} />
      {isHereOnly && (
        <p>
          Put this machine’s name or address for THIS-MACHINE. Others reach it where Variscen is started with{' '}
          <span className="mono">./start --listen 0.0.0.0</span>.
        </p>
      )}
      <p className="dim">What goes over the network is not encrypted. Let only a network that you trust reach it.</p>
    </Modal>
  );
}

function Command({ label, text }: { label: string; text: string }) {
  return (
    <div className={`mono ${styles.command}`}>
      {text}
      <CopyButton value={text}>
        {({ copied, copy }) => (
          <button type="button" className={`quiet ${styles.copy}`} aria-label={`Copy ${label}`} onClick={copy}>
            {copied ? 'Copied' : 'Copy'}
          </button>
        )}
      </CopyButton>
    </div>
  );
}
