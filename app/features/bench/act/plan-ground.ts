import type { Figures, PaintFigure, SolidFigure } from '~~/core/arena'

type Color = (name: string) => string

/** What of an arena never moves, drawn flat on a canvas that is in metres: ground, paint, marks, and what stands fast. `thin`: metres of one pixel of the page. */
export function drawGround(ctx: CanvasRenderingContext2D, { ground, paint, marks, fixed }: Figures, color: Color, thin: number): void {
  for (const deck of ground) drawSolid(ctx, deck, color, thin)
  for (const figure of paint) drawPaint(ctx, figure, color)
  for (const { at: [x, y], size: [w, h] } of marks) {
    ctx.strokeStyle = color('ink')
    ctx.globalAlpha = 0.45
    ctx.lineWidth = thin
    ctx.setLineDash([6 * thin, 5 * thin])
    ctx.strokeRect(x - w / 2 + thin, y - h / 2 + thin, w - 2 * thin, h - 2 * thin)
    ctx.setLineDash([])
    ctx.globalAlpha = 1
  }
  for (const solid of fixed) drawSolid(ctx, solid, color, thin)
}

function drawPaint(ctx: CanvasRenderingContext2D, figure: PaintFigure, color: Color): void {
  ctx.fillStyle = ctx.strokeStyle = color(`paint-${figure.color}`)
  ctx.save()
  ctx.beginPath()
  switch (figure.shape) {
    case 'box':
      ctx.translate(figure.at[0], figure.at[1])
      ctx.rotate(-figure.turn)
      ctx.rect(-figure.size[0] / 2, -figure.size[1] / 2, figure.size[0], figure.size[1])
      ctx.fill()
      break
    case 'disc':
      ctx.arc(figure.at[0], figure.at[1], figure.radius, 0, 2 * Math.PI)
      ctx.fill()
      break
    case 'way':
      ctx.lineCap = 'round'
      ctx.lineJoin = 'round'
      ctx.lineWidth = figure.width
      figure.points.forEach(([x, y], i) => { if (i === 0) ctx.moveTo(x, y); else ctx.lineTo(x, y) })
      ctx.stroke()
  }
  ctx.restore()
}

/** A solid from above where it stands, with what people know it by. */
function drawSolid(ctx: CanvasRenderingContext2D, { shape, at, yaw, tint, hollow = false, seams, runs }: SolidFigure, color: Color, thin: number): void {
  ctx.save()
  ctx.translate(at[0], at[1])
  ctx.rotate(yaw)
  const [x, y] = shape.shape === 'box' ? [shape.hx, shape.hy] : [shape.radius, shape.radius]
  ctx.beginPath()
  if (shape.shape === 'box') ctx.rect(-x, -y, 2 * x, 2 * y)
  else ctx.arc(0, 0, x, 0, 2 * Math.PI)
  ctx.fillStyle = color(tint)
  ctx.globalAlpha = hollow ? 0.35 : 1
  ctx.fill()
  ctx.lineWidth = thin
  if (hollow) {
    ctx.globalAlpha = 0.5
    ctx.strokeStyle = color('ink')
    ctx.stroke()
  }
  ctx.globalAlpha = 1
  if (seams !== undefined) {
    ctx.strokeStyle = color('plank')
    ctx.beginPath()
    for (let at = seams - y; at < y - 0.01; at += seams) { ctx.moveTo(-x, at); ctx.lineTo(x, at) }
    ctx.stroke()
  }
  if (runs !== undefined) {
    ctx.strokeStyle = color('paint-grey')
    ctx.lineWidth = 1.5 * thin
    const way = Math.sign(runs || 1)
    for (let at = 0.04 - x; at < x - 0.02; at += 0.08) {
      ctx.beginPath()
      ctx.moveTo(at - way * 0.012, y / 2)
      ctx.lineTo(at + way * 0.012, 0)
      ctx.lineTo(at - way * 0.012, -y / 2)
      ctx.stroke()
    }
  }
  ctx.restore()
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
