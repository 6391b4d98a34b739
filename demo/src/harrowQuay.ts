import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { packageZip } from '@kinkajou/core/handoff/write/packageZip';
import { bollardKit } from './bollardKit.ts';
import { cargoFenders } from './cargoFenders.ts';
import { channelBuoy } from './channelBuoy.ts';
import { mooringStair } from './mooringStair.ts';
import { oilskinCoat } from './oilskinCoat.ts';
import { pilotBoat } from './pilotBoat.ts';
import { ropeNet } from './ropeNet.ts';
import type { DemoParcel } from './scene.ts';
import { signalFlags } from './signalFlags.ts';
import { stormLantern } from './stormLantern.ts';

/** Raise it when a generator changes, so that kept parcels are made again. */
const EDITION = 9;

/** Every parcel of the harbour, each made when asked for. */
export const PARCELS: Record<string, () => Promise<DemoParcel>> = {
  'storm-lantern': stormLantern,
  'channel-buoy': channelBuoy,
  'rope-net': ropeNet,
  'oilskin-coat': oilskinCoat,
  'signal-flags': signalFlags,
  'pilot-boat': pilotBoat,
  'bollard-kit': bollardKit,
  'mooring-stair': mooringStair,
  'cargo-fenders': cargoFenders,
};

/** A parcel of the demo as a file on the disk. */
export interface DemoZip {
  id: string;
  title: string;
  path: string;
}

/** Writes each parcel as a zip into a folder; parcels of this edition that are there already are kept. */
export async function writeHarrowQuay(folder: string): Promise<DemoZip[]> {
  await mkdir(folder, { recursive: true });
  const zips: DemoZip[] = [];
  for (const [id, make] of Object.entries(PARCELS)) {
    const path = join(folder, `${id}-${EDITION}.zip`);
    const title = id.replace('-', ' ').replace(/^\w/, (letter) => letter.toUpperCase());
    if (!(await stat(path).catch(() => null))) await writeFile(path, await parcelZip(await make()));
    zips.push({ id, title, path });
  }
  return zips;
}

/** A parcel as zip. */
export async function parcelZip(parcel: DemoParcel): Promise<Uint8Array> {
  return packageZip(new Map(Object.entries(parcel.files)));
}

/** The bytes of a parcel on the disk. */
export async function readDemoZip(zip: DemoZip): Promise<Uint8Array> {
  return readFile(zip.path);
}
