// Reads what the server packs: a JSON header, then 32-bit floats.
export async function fetchPacked(address, options) {
  const answer = await fetch(address, options);
  if (!answer.ok) throw Object.assign(new Error(String(answer.status)), { answer });
  return unpack(await answer.arrayBuffer());
}

export function unpack(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  return { header, points: new Float32Array(buffer, 4 + length) };
}
