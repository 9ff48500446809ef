<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\Shapes;

use Emberstone\Core\Geometry\Vector3;

/**
 * A plane, cylinder, cone, sphere or torus: each is a straight line or a circle that turns about an axis, so that one form of distance, normal and derivative serves them all.
 *
 * A point lies `h` along the axis from the origin and `rho` away from it. A line stands `radius` off the axis at the origin and leans by `tilt` from it (0: cylinder; a quarter
 * turn: plane): its distance is cos(tilt) (rho - radius) - sin(tilt) h. A circle of radius `tube` goes around the point `radius` off the axis (0: sphere).
 * Distances grow away from the axis or out of the tube. The axis of a plane points against its normal.
 *
 * @internal
 */
final readonly class TurnedShape
{
    /**
     * @param  string  $kind  `plane`, `cylinder`, `cone`, `sphere` or `torus`
     * @param  array{float, float, float}  $origin  mm
     * @param  array{float, float, float}  $axis  unit
     * @param  float  $radius  mm: of a cylinder, of a cone at its origin, of the ring of a torus; 0 for a plane and a sphere
     * @param  float  $tilt  rad: of a cone's side to its axis
     * @param  float  $tube  mm: of a sphere, of the tube of a torus
     */
    public function __construct(public string $kind, public array $origin, public array $axis, public float $radius = 0.0, public float $tilt = 0.0, public float $tube = 0.0)
    {
    }

    /**
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $normal  unit
     */
    public static function plane(array $point, array $normal): self
    {
        return new self('plane', $point, [-$normal[0], -$normal[1], -$normal[2]], 0.0, M_PI_2);
    }

    public function isRound(): bool
    {
        return $this->kind === 'sphere' || $this->kind === 'torus';
    }

    /** @return array{float, float, float} the normal of a plane, the axis of any other */
    public function direction(): array
    {
        return $this->kind === 'plane' ? [-$this->axis[0], -$this->axis[1], -$this->axis[2]] : $this->axis;
    }

    /**
     * Signed distances of points.
     *
     * @param  array<int, float>  $p  flat xyz
     * @return list<float>
     */
    public function distances(array $p): array
    {
        [$x0, $y0, $z0] = $this->origin;
        [$ax, $ay, $az] = $this->axis;
        [$radius, $tube, $round] = [$this->radius, $this->tube, $this->isRound()];
        $cos = $this->kind === 'plane' ? 0.0 : cos($this->tilt);
        $sin = sin($this->tilt);
        $d = [];
        for ($o = 0, $n = count($p); $o < $n; $o += 3) {
            $x = $p[$o] - $x0;
            $y = $p[$o + 1] - $y0;
            $z = $p[$o + 2] - $z0;
            $h = $x * $ax + $y * $ay + $z * $az;
            $s = $x * $x + $y * $y + $z * $z - $h * $h;
            $q = ($s > 0.0 ? sqrt($s) : 0.0) - $radius;
            $d[] = $round ? sqrt($q * $q + $h * $h) - $tube : $cos * $q - $sin * $h;
        }

        return $d;
    }

    /**
     * How badly a place of a surface suits the shape: how far it lies off, and what its normal turns away from the shape's, times a length.
     *
     * @param  float  $length  mm that a normal square to the shape counts as
     */
    public function mismatch(float $x, float $y, float $z, float $nx, float $ny, float $nz, float $length): float
    {
        [$ax, $ay, $az] = $this->axis;
        $x -= $this->origin[0];
        $y -= $this->origin[1];
        $z -= $this->origin[2];
        $h = $x * $ax + $y * $ay + $z * $az;
        $x -= $h * $ax;
        $y -= $h * $ay;
        $z -= $h * $az;
        $rho = sqrt($x * $x + $y * $y + $z * $z);
        $q = $rho - $this->radius;
        if ($this->isRound()) {
            $s = sqrt($q * $q + $h * $h);
            $d = $s - $this->tube;
            $nr = $s > 0.0 ? $q / $s : 0.0;
            $nh = $s > 0.0 ? $h / $s : 1.0;
        } else {
            $nr = $this->kind === 'plane' ? 0.0 : cos($this->tilt);
            $nh = -sin($this->tilt);
            $d = $nr * $q + $nh * $h;
        }
        $facing = ($rho > 0.0 ? $nr / $rho * ($x * $nx + $y * $ny + $z * $nz) : 0.0) + $nh * ($ax * $nx + $ay * $ny + $az * $nz);

        return abs($d) + $length * (1.0 - abs($facing));
    }

    /** @return array{float, float, float} unit: the way in which the distance grows at a point */
    public function normal(float $x, float $y, float $z): array
    {
        $r = Vector3::minus([$x, $y, $z], $this->origin);
        $h = Vector3::dot($r, $this->axis);
        $out = Vector3::minus($r, Vector3::scaled($this->axis, $h));
        $rho = Vector3::length($out);
        // On the axis every way out is as good.
        $out = $rho > 0.0 ? Vector3::scaled($out, 1.0 / $rho) : Vector3::square($this->axis)[0];
        if (! $this->isRound()) {
            $cos = $this->kind === 'plane' ? 0.0 : cos($this->tilt);

            return Vector3::minus(Vector3::scaled($out, $cos), Vector3::scaled($this->axis, sin($this->tilt)));
        }
        $q = $rho - $this->radius;
        $s = sqrt($q * $q + $h * $h) ?: 1.0;

        return Vector3::plus(Vector3::scaled($out, $q / $s), Vector3::scaled($this->axis, $h / $s));
    }
}
