<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Algorithms\Brep\BoundaryRepresentation;
use Emberstone\Core\Algorithms\Brep\EdgeCurve;
use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Foundation\Unit;
use Emberstone\Core\Geometry\RigidTransform;
use Emberstone\Core\Geometry\Vector3;

/**
 * STEP: clear text (ISO 10303-21) of application protocol 214. One product with solids, open shells, curves, points and frames, each by its name.
 *
 * Coordinates go in as millimetres of the project and come out moved, and in the unit of the file.
 *
 * @phpstan-import-type Point from EdgeCurve
 */
final class Ap214
{
    private const SCHEMA = 'AUTOMOTIVE_DESIGN { 1 0 10303 214 1 1 1 1 }';

    /** @var list<string> lines of the data section */
    private array $lines = [];

    /** @var array<string, list<int>> items by what kind of representation holds them */
    private array $items = ['solids' => [], 'shells' => [], 'curves' => [], 'frames' => []];

    private readonly float $scale;

    /** mm within which programs that read the file may take two places for one. */
    private const UNCERTAINTY = 1e-3;

    /** @param  RigidTransform  $into  from the project's millimetres to those of the file */
    public function __construct(private readonly string $title, private readonly Unit $unit, private readonly RigidTransform $into)
    {
        $this->scale = 1.0 / $unit->inMillimetres();
    }

    /** @param  string  $arguments  as they stand between the brackets */
    private function put(string $entity, string $arguments): int
    {
        $this->lines[] = '#'.(count($this->lines) + 1)."=$entity($arguments);";

        return count($this->lines);
    }

    private static function real(float $value): string
    {
        $text = sprintf('%.15G', $value);

        // A real number has a point.
        return str_contains($text, '.') ? $text : (str_contains($text, 'E') ? str_replace('E', '.E', $text) : "$text.");
    }

    private static function text(string $text): string
    {
        $escaped = '';
        foreach (mb_str_split($text) as $sign) {
            $code = mb_ord($sign);
            // \X2\ begins signs of two bytes, \X4\ of four; \X0\ ends them.
            $escaped .= match (true) {
                $sign === "'" => "''",
                $sign === '\\' => '\\\\',
                $code < 0x20 => ' ',
                $code < 0x7F => $sign,
                $code < 0x10000 => sprintf('\\X2\\%04X\\X0\\', $code),
                default => sprintf('\\X4\\%08X\\X0\\', $code),
            };
        }

        return "'$escaped'";
    }

    /** @param  list<int>  $numbers */
    private static function refer(array $numbers): string
    {
        return '('.implode(',', array_map(fn (int $n) => "#$n", $numbers)).')';
    }

    /** @param  Point  $p */
    private function point(array $p): int
    {
        return $this->put('CARTESIAN_POINT', "'',(".implode(',', array_map(fn (float $v) => self::real($this->scale * $v), $this->into->point($p))).')');
    }

    /** @param  Point  $d  unit */
    private function direction(array $d): int
    {
        return $this->put('DIRECTION', "'',(".implode(',', array_map(self::real(...), $this->into->direction($d))).')');
    }

    /**
     * @param  Point  $origin
     * @param  Point  $z  unit
     * @param  Point|null  $x  unit, square to Z; any when null
     */
    private function axes(array $origin, array $z, ?array $x = null, string $name = ''): int
    {
        return $this->put('AXIS2_PLACEMENT_3D', self::text($name).',#'.$this->point($origin).',#'.$this->direction($z).',#'.$this->direction($x ?? Vector3::square($z)[0]));
    }

    private function surface(TurnedShape $shape): int
    {
        if ($shape->kind === 'cone') {
            // Its radius grows along the axis in a file, and is not below nothing at the origin.
            $widens = $shape->tilt >= 0.0 ? 1.0 : -1.0;
            $axis = Vector3::scaled($shape->axis, $widens);
            $slope = tan(abs($shape->tilt));
            $origin = $shape->radius >= 0.0 ? $shape->origin : Vector3::plus($shape->origin, Vector3::scaled($axis, -$shape->radius / $slope));

            return $this->put('CONICAL_SURFACE', "'',#".$this->axes($origin, $axis).','.self::real($this->scale * max(0.0, $shape->radius)).','.self::real(abs($shape->tilt)));
        }
        $axes = $this->axes($shape->origin, $shape->direction());

        return match ($shape->kind) {
            'plane' => $this->put('PLANE', "'',#$axes"),
            'cylinder' => $this->put('CYLINDRICAL_SURFACE', "'',#$axes,".self::real($this->scale * $shape->radius)),
            'sphere' => $this->put('SPHERICAL_SURFACE', "'',#$axes,".self::real($this->scale * $shape->tube)),
            default => $this->put('TOROIDAL_SURFACE', "'',#$axes,".self::real($this->scale * $shape->radius).','.self::real($this->scale * $shape->tube)),
        };
    }

    private function curve(EdgeCurve $curve): int
    {
        $from = $curve->points[0];
        if ($curve->kind === 'line') {
            $way = Vector3::unit(Vector3::minus($curve->points[1], $from));

            return $this->put('LINE', "'',#".$this->point($from).',#'.$this->put('VECTOR', "'',#".$this->direction($way).',1.'));
        }
        if ($curve->kind === 'circle') {
            $out = Vector3::unit(Vector3::minus($from, $curve->centre));

            return $this->put('CIRCLE', "'',#".$this->axes($curve->centre, $curve->axis, $out).','.self::real($this->scale * $curve->radius));
        }
        if ($curve->kind === 'polyline') {
            return $this->put('POLYLINE', "'',".self::refer(array_map($this->point(...), $curve->points)));
        }
        $spline = $curve->bSpline();

        return $this->put('B_SPLINE_CURVE_WITH_KNOTS', "'',3,".self::refer(array_map($this->point(...), $spline['control'])).',.UNSPECIFIED.,.F.,.F.,('.implode(',', $spline['multiplicities']).'),('.implode(',', array_map(fn (float $v) => self::real($this->scale * $v), $spline['knots'])).'),.UNSPECIFIED.');
    }

    /** Faces with shared edges: closed ones become solids, others open shells. */
    public function add(string $name, BoundaryRepresentation $part): void
    {
        $corners = array_map(fn (array $p) => $this->put('VERTEX_POINT', "'',#".$this->point($p)), $part->corners);
        $edges = array_map(fn (array $edge) => $this->put('EDGE_CURVE', "'',#{$corners[$edge['from']]},#{$corners[$edge['to']]},#".$this->curve($edge['curve']).',.T.'), $part->edges);
        $faces = [];
        foreach ($part->faces as $face) {
            $bounds = [];
            foreach ($face['loops'] as $loop) {
                $oriented = array_map(fn (int $edge) => $this->put('ORIENTED_EDGE', "'',*,*,#{$edges[abs($edge) - 1]},".($edge > 0 ? '.T.' : '.F.')), $loop);
                $bounds[] = $this->put('FACE_BOUND', "'',#".$this->put('EDGE_LOOP', "'',".self::refer($oriented)).',.T.');
            }
            if ($bounds === []) {
                // All of a ball or a ring: its only bound is a place.
                $shape = $face['shape'];
                $pole = $this->put('VERTEX_POINT', "'',#".$this->point(Vector3::plus($shape->origin, $shape->kind === 'sphere' ? Vector3::scaled($shape->axis, -$shape->tube) : Vector3::scaled(Vector3::square($shape->axis)[0], $shape->radius + $shape->tube))));
                $bounds[] = $this->put('FACE_BOUND', "'',#".$this->put('VERTEX_LOOP', "'',#$pole").',.T.');
            }
            $faces[] = $this->put('ADVANCED_FACE', "'',".self::refer($bounds).',#'.$this->surface($face['shape']).','.($face['facesOut'] ? '.T.' : '.F.'));
        }
        $open = [];
        foreach ($part->shells as $k => $shell) {
            $of = self::refer(array_map(fn (int $face) => $faces[$face], $shell['faces']));
            if ($shell['isClosed']) {
                $this->items['solids'][] = $this->put('MANIFOLD_SOLID_BREP', self::text(count($part->shells) === 1 ? $name : $name.' '.($k + 1)).',#'.$this->put('CLOSED_SHELL', "'',$of"));
            } else {
                $open[] = $this->put('OPEN_SHELL', "'',$of");
            }
        }
        if ($open !== []) {
            $this->items['shells'][] = $this->put('SHELL_BASED_SURFACE_MODEL', self::text($name).','.self::refer($open));
        }
    }

    /**
     * Curves in space.
     *
     * @param  list<EdgeCurve>  $curves
     */
    public function addCurves(string $name, array $curves): void
    {
        $drawn = [];
        foreach ($curves as $curve) {
            $basis = $this->curve($curve);
            $ends = [$curve->points[0], $curve->points[count($curve->points) - 1]];
            // Lines are endless, and circles whole, until they are trimmed.
            $drawn[] = $curve->kind === 'spline' || $curve->kind === 'polyline' || count($curve->points) === 1 ? $basis
                : $this->put('TRIMMED_CURVE', "'',#$basis,(#".$this->point($ends[0]).'),(#'.$this->point($ends[1]).'),.T.,.CARTESIAN.');
        }
        if ($drawn !== []) {
            $this->items['curves'][] = $this->put('GEOMETRIC_CURVE_SET', self::text($name).','.self::refer($drawn));
        }
    }

    /** @param  Point  $at */
    public function addPoint(string $name, array $at): void
    {
        $this->items['curves'][] = $this->put('GEOMETRIC_CURVE_SET', self::text($name).','.self::refer([$this->point($at)]));
    }

    /**
     * @param  Point  $origin
     * @param  Point  $z  unit
     * @param  Point  $x  unit
     */
    public function addFrame(string $name, array $origin, array $z, array $x): void
    {
        $this->items['frames'][] = $this->axes($origin, $z, $x, $name);
    }

    /** The whole file. It does not say when it was made, so that the same part gives the same bytes. */
    public function written(): string
    {
        $this->product();
        $stamp = '1970-01-01T00:00:00';

        return "ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION(('Shapes and datums of a scanned part'),'2;1');\nFILE_NAME(".self::text($this->title).",'$stamp',(''),(''),'Emberstone','Emberstone','');\n"
            ."FILE_SCHEMA(('".self::SCHEMA."'));\nENDSEC;\nDATA;\n".implode("\n", $this->lines)."\nENDSEC;\nEND-ISO-10303-21;\n";
    }

    private function product(): void
    {
        $title = self::text($this->title);
        $application = $this->put('APPLICATION_CONTEXT', "'core data for automotive mechanical design processes'");
        $this->put('APPLICATION_PROTOCOL_DEFINITION', "'international standard','automotive_design',2000,#$application");
        $product = $this->put('PRODUCT', "$title,$title,'',(#".$this->put('PRODUCT_CONTEXT', "'',#$application,'mechanical'").')');
        $this->put('PRODUCT_RELATED_PRODUCT_CATEGORY', "'part',\$,(#$product)");
        $definition = $this->put('PRODUCT_DEFINITION', "'design','',#".$this->put('PRODUCT_DEFINITION_FORMATION', "'','',#$product").',#'.$this->put('PRODUCT_DEFINITION_CONTEXT', "'part definition',#$application,'design'"));
        $shape = $this->put('PRODUCT_DEFINITION_SHAPE', "'','',#$definition");
        $context = $this->context();
        $origin = $this->put('AXIS2_PLACEMENT_3D', "'',#".$this->put('CARTESIAN_POINT', "'',(0.,0.,0.)").',#'.$this->put('DIRECTION', "'',(0.,0.,1.)").',#'.$this->put('DIRECTION', "'',(1.,0.,0.)"));
        $whole = $this->put('SHAPE_REPRESENTATION', "$title,".self::refer([$origin, ...$this->items['frames']]).",#$context");
        $this->put('SHAPE_DEFINITION_REPRESENTATION', "#$shape,#$whole");
        $kinds = ['solids' => 'ADVANCED_BREP_SHAPE_REPRESENTATION', 'shells' => 'MANIFOLD_SURFACE_SHAPE_REPRESENTATION', 'curves' => 'GEOMETRICALLY_BOUNDED_WIREFRAME_SHAPE_REPRESENTATION'];
        foreach ($kinds as $key => $kind) {
            if ($this->items[$key] !== []) {
                $part = $this->put($kind, "$title,".self::refer([$origin, ...$this->items[$key]]).",#$context");
                $this->put('SHAPE_REPRESENTATION_RELATIONSHIP', "'','',#$whole,#$part");
            }
        }
    }

    /** Units and uncertainty. */
    private function context(): int
    {
        $prefix = ['mm' => '.MILLI.', 'cm' => '.CENTI.', 'm' => '$'];
        if (isset($prefix[$this->unit->value])) {
            $length = $this->raw("( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT({$prefix[$this->unit->value]},.METRE.) )");
        } else {
            $metre = $this->raw('( LENGTH_UNIT() NAMED_UNIT(*) SI_UNIT($,.METRE.) )');
            $measure = $this->put('LENGTH_MEASURE_WITH_UNIT', 'LENGTH_MEASURE('.self::real(0.001 * $this->unit->inMillimetres())."),#$metre");
            $name = $this->unit === Unit::Inch ? 'INCH' : 'FOOT';
            $length = $this->raw("( CONVERSION_BASED_UNIT('$name',#$measure) LENGTH_UNIT() NAMED_UNIT(#".$this->put('DIMENSIONAL_EXPONENTS', '1.,0.,0.,0.,0.,0.,0.').') )');
        }
        $angle = $this->raw('( NAMED_UNIT(*) PLANE_ANGLE_UNIT() SI_UNIT($,.RADIAN.) )');
        $solid = $this->raw('( NAMED_UNIT(*) SI_UNIT($,.STERADIAN.) SOLID_ANGLE_UNIT() )');
        $least = $this->put('UNCERTAINTY_MEASURE_WITH_UNIT', 'LENGTH_MEASURE('.self::real($this->scale * self::UNCERTAINTY)."),#$length,'distance_accuracy_value',''");

        return $this->raw("( GEOMETRIC_REPRESENTATION_CONTEXT(3) GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT((#$least)) GLOBAL_UNIT_ASSIGNED_CONTEXT((#$length,#$angle,#$solid)) REPRESENTATION_CONTEXT('','3D') )");
    }

    private function raw(string $entity): int
    {
        $this->lines[] = '#'.(count($this->lines) + 1)."=$entity;";

        return count($this->lines);
    }
}
