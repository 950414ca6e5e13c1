import type { Arena } from '~~/core/arena'

/** What of an arena never moves, drawn flat on a canvas that is in metres: decks, paint, marked areas, crates, belts, walls. `thin`: metres of one pixel of the page. */
export function drawGround(ctx: CanvasRenderingContext2D, arena: Arena, color: (name: string) => string, thin: number): void {
  for (const deck of arena.decks) {
    ctx.save()
    ctx.translate(deck.at[0], deck.at[1])
    ctx.rotate(-deck.turn)
    const [w, h] = deck.size
    ctx.fillStyle = color('deck')
    ctx.fillRect(-w / 2, -h / 2, w, h)
    ctx.strokeStyle = color('plank')
    ctx.lineWidth = thin
    ctx.beginPath()
    // A seam every 20 cm, so that distance can be judged.
    for (let y = 0.2; y < h - 0.01; y += 0.2) { ctx.moveTo(-w / 2, y - h / 2); ctx.lineTo(w / 2, y - h / 2) }
    ctx.stroke()
    ctx.restore()
  }
  for (const patch of arena.patches) {
    ctx.save()
    ctx.translate(patch.at[0], patch.at[1])
    ctx.rotate(-patch.turn)
    ctx.fillStyle = color(`paint-${patch.color}`)
    if (patch.shape === 'disc') {
      ctx.beginPath()
      ctx.arc(0, 0, patch.size[0] / 2, 0, 2 * Math.PI)
      ctx.fill()
    } else ctx.fillRect(-patch.size[0] / 2, -patch.size[1] / 2, patch.size[0], patch.size[1])
    ctx.restore()
  }
  ctx.lineCap = 'round'
  ctx.lineJoin = 'round'
  for (const line of arena.lines) {
    ctx.strokeStyle = color(`paint-${line.color}`)
    ctx.lineWidth = line.width
    ctx.beginPath()
    line.points.forEach(([x, y], i) => { if (i === 0) ctx.moveTo(x, y); else ctx.lineTo(x, y) })
    ctx.stroke()
  }
  drawMarks(ctx, arena, color, thin)
  ctx.strokeStyle = color('wall')
  ctx.lineCap = 'square'
  for (const wall of arena.walls) {
    ctx.lineWidth = wall.thickness
    ctx.beginPath()
    ctx.moveTo(wall.from[0], wall.from[1])
    ctx.lineTo(wall.to[0], wall.to[1])
    ctx.stroke()
  }
}

/** Areas, crates and belts. */
function drawMarks(ctx: CanvasRenderingContext2D, arena: Arena, color: (name: string) => string, thin: number): void {
  const box = (at: readonly [number, number], size: readonly [number, number], turn: number, draw: (w: number, h: number) => void): void => {
    ctx.save()
    ctx.translate(at[0], at[1])
    ctx.rotate(-turn)
    draw(size[0], size[1])
    ctx.restore()
  }
  for (const area of arena.areas) {
    box(area.at, area.size, 0, (w, h) => {
      ctx.strokeStyle = color('ink')
      ctx.globalAlpha = 0.45
      ctx.lineWidth = thin
      ctx.setLineDash([6 * thin, 5 * thin])
      ctx.strokeRect(-w / 2 + thin, -h / 2 + thin, w - 2 * thin, h - 2 * thin)
      ctx.setLineDash([])
      ctx.globalAlpha = 1
    })
  }
  for (const crate of arena.crates) {
    box(crate.at, crate.size, crate.turn, (w, h) => {
      ctx.fillStyle = color(`paint-${crate.color}`)
      ctx.globalAlpha = 0.35
      ctx.fillRect(-w / 2, -h / 2, w, h)
      ctx.globalAlpha = 1
      ctx.strokeStyle = color(`paint-${crate.color}`)
      ctx.lineWidth = crate.wall
      ctx.strokeRect(-w / 2 + crate.wall / 2, -h / 2 + crate.wall / 2, w - crate.wall, h - crate.wall)
      ctx.strokeStyle = color('ink')
      ctx.globalAlpha = 0.5
      ctx.lineWidth = thin
      ctx.strokeRect(-w / 2, -h / 2, w, h)
      ctx.globalAlpha = 1
    })
  }
  for (const belt of arena.belts) {
    box(belt.at, belt.size, belt.turn, (w, h) => {
      ctx.fillStyle = color('paint-black')
      ctx.fillRect(-w / 2, -h / 2, w, h)
      // Which way it runs.
      ctx.strokeStyle = color('paint-grey')
      ctx.lineWidth = 1.5 * thin
      const way = Math.sign(belt.speed || 1)
      for (let x = -w / 2 + 0.04; x < w / 2 - 0.02; x += 0.08) {
        ctx.beginPath()
        ctx.moveTo(x - way * 0.012, h * 0.25)
        ctx.lineTo(x + way * 0.012, 0)
        ctx.lineTo(x - way * 0.012, -h * 0.25)
        ctx.stroke()
      }
    })
  }
}

/** Water around the decks, over the whole picture. */
export function drawWaves(ctx: CanvasRenderingContext2D, color: string, width: number, height: number): void {
  ctx.strokeStyle = color
  ctx.lineWidth = 1.5
  ctx.beginPath()
  for (let y = 8; y < height; y += 22) {
    ctx.moveTo(0, y)
    for (let x = 0; x < width; x += 34) {
      ctx.quadraticCurveTo(x + 8.5, y - 6, x + 17, y)
      ctx.quadraticCurveTo(x + 25.5, y + 6, x + 34, y)
    }
  }
  ctx.stroke()
}
