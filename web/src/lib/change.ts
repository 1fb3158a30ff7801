import type { Schemas, View } from '@/api/client'

type Node = Record<string, unknown> | unknown[]

/** A node with one part of it put anew or taken away; what is not on the way to it stays the same object. */
function put(node: Node | undefined, [key, ...rest]: string[], now: unknown): Node {
  const out = (Array.isArray(node) ? [...node] : { ...node }) as Record<string, unknown>
  if (rest.length) out[key!] = put(out[key!] as Node | undefined, rest, now)
  else if (now === undefined) delete out[key!]
  else out[key!] = now
  return out as Node
}

/** A view after a change of some of its parts. */
export const changed = (v: View, c: Schemas['ViewChange']): View =>
  c.parts.reduce<unknown>((to, p) => put(to as Node, p.at, p.now), v) as View
