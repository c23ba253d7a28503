# Writes cairo.svg, with pycairo. office.svg is office.fodg as an office suite saves it as SVG.
import cairo
out = '.'
# cairo: points are 1/72 in; page 600 x 400 mm
mm=72/25.4
s=cairo.SVGSurface(f'{out}/cairo.svg',600*mm,400*mm)
c=cairo.Context(s); c.scale(mm,mm)
c.set_line_width(20); c.set_source_rgb(0.1,0.1,0.12); c.move_to(50,350); c.line_to(300,350); c.curve_to(450,350,550,300,550,200); c.stroke()
c.set_source_rgb(0.8,0.2,0.2); c.arc(150,150,60,0,6.283185307179586); c.fill()
c.save(); c.translate(400,120); c.rotate(0.5235987755982988); c.rectangle(-40,-20,80,40); c.set_source_rgb(0,0,0); c.set_line_width(4); c.stroke(); c.restore()
s.finish()
