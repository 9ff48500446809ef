<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Shaping;

use Emberstone\Core\Algorithms\Cutting\ConstrainedTriangulation;
use Emberstone\Core\Algorithms\Cutting\MeshBoolean;
use Emberstone\Core\Algorithms\Search\TriangleBvh;
use Emberstone\Core\Foundation\Format;
use Emberstone\Core\Foundation\PartProgress;
use Emberstone\Core\Foundation\Progress;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\BoundingBox;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\About;
use Emberstone\Core\Operation\Body;
use Emberstone\Core\Operation\Estimate;
use Emberstone\Core\Operation\Operation;
use Emberstone\Core\Operation\Result;
use Emberstone\Core\Operation\Stage;
use Emberstone\Core\Operation\Triples;
use Emberstone\Core\Operation\Workpiece;

/**
 * Raises or sinks a text on a surface. Walls of letters stand along one direction, as a cutter would leave them.
 *
 * Output    a closed, sound body of a closed, sound one; letters are marked as made.
 * Error     outlines lie within 0.003 of the height on their true curves. Letters that follow the surface do so along their
 *           outlines, at points at most STEP of the height apart; across a stroke of width s they are straight, s^2 / 8r off a surface of radius r.
 *
 * @implements Operation<EngraveParameters>
 */
final class Engrave implements Operation
{
    /** Letters that follow the surface: corners on their outlines, as a share of the height. */
    private const STEP = 0.08;

    /** How far letters go on through the surface, as a share of the height, so that their ends never lie on it. */
    private const THROUGH = 0.1173;

    /** Of the height: the surface so near to the middle of the text says which way it is read. */
    private const AROUND = 1.0;

    /** Cosine between the direction of the text and that of the surface: beyond some 75 degrees letters slide off. */
    private const STEEP = 0.26;

    public static function about(): About
    {
        return new About('engrave', Stage::Deliver, 'Engrave', 'Raises or sinks a text on the surface: a part number, a date.', 'meshes', EngraveParameters::class, avoid: 'Not smaller than the printer can lay: the step says how thin the strokes are.');
    }

    public function estimate(Workpiece $workpiece, object $parameters): Estimate
    {
        return Combine::estimate($workpiece, 0.0);
    }

    public function __invoke(Workpiece $workpiece, object $parameters, Progress $progress): Result
    {
        $point = Triples::of($parameters->at, 'point');
        $chosen = self::nearest(Choice::of($workpiece, $parameters->body, $parameters->on), $point, $parameters->body === null && $parameters->on === null);
        $letters = Lettering::of($parameters->text, $parameters->font, $parameters->height);
        $tools = [];
        $notes = [];
        foreach ($chosen as $id => $body) {
            $tools[$id] = self::tool($body, $letters, $parameters, $point, new PartProgress($progress, 0.0, 0.3));
        }
        $stroke = self::stroke($letters);
        $notes[] = sprintf('Strokes are %s wide in the mean; what is made must show that.', Format::mm($stroke));
        $result = Combine::all($workpiece, $chosen, 'the text', $tools, $parameters->depth > 0.0 ? MeshBoolean::UNION : MeshBoolean::DIFFERENCE, true, null, $notes, new PartProgress($progress, 0.3, 1.0));

        return new Result($result->workpiece, sprintf('"%s" %s %s · %s', mb_strimwidth(str_replace("\n", ' ', $parameters->text), 0, 40, '…'), Format::mm(abs($parameters->depth)), $parameters->depth > 0.0 ? 'raised' : 'sunk', $result->headline), $result->before, $result->after + ['stroke' => $stroke], $result->notes);
    }

    /**
     * @param  non-empty-array<string, Body>  $bodies
     * @param  array{float, float, float}  $point
     * @param  bool  $isOne  the one whose surface is nearest, not all
     * @return non-empty-array<string, Body>
     */
    private static function nearest(array $bodies, array $point, bool $isOne): array
    {
        if (! $isOne || count($bodies) === 1) {
            return $bodies;
        }
        $apart = [];
        foreach ($bodies as $id => $body) {
            $mesh = $body->placedMesh();
            $face = $distanceSq = [];
            TriangleBvh::of($mesh->positions, $mesh->faces)->closest($point, $face, $distanceSq);
            $apart[$id] = $distanceSq[0] ?? INF;
        }
        $id = (string) array_search(min($apart), $apart, true);

        return [$id => $bodies[$id]];
    }

    /**
     * The letters as a closed mesh that is added or taken away.
     *
     * @param  list<list<array{float, float}>>  $letters
     * @param  array{float, float, float}  $point
     *
     * @throws UnsuitableInput when the text reaches beyond the surface
     */
    private static function tool(Body $body, array $letters, EngraveParameters $parameters, array $point, Progress $progress): TriangleMesh
    {
        $mesh = $body->placedMesh();
        Combination::refuseOpen($body->name, $mesh);
        $tree = TriangleBvh::of($mesh->positions, $mesh->faces);
        $face = $distanceSq = [];
        $tree->closest($point, $face, $distanceSq);
        if (sqrt($distanceSq[0]) > $parameters->height) {
            throw UnsuitableInput::because(sprintf('The middle of the text lies %s off %s. Click on its surface.', Format::mm(sqrt($distanceSq[0])), $body->name));
        }
        $normal = isset($parameters->at['normal']) ? Vector3::unit(Triples::of($parameters->at, 'normal')) : self::facing($mesh, $point, $face[0], self::AROUND * $parameters->height);
        [$right, $up] = self::axes($parameters, $normal);
        if ($parameters->wrap) {
            $letters = array_map(fn (array $loop) => self::stepped($loop, self::STEP * $parameters->height), $letters);
        }
        [$flat, $edges, $faces] = self::area($letters);
        $progress->advance('laying letters', 0.3);
        $heights = self::heights($mesh, $tree, $flat, $point, $right, $up, $normal, $parameters, $body->name);
        $progress->advance('laying letters', 0.8);
        $through = self::THROUGH * $parameters->height;
        [$least, $most] = [min($heights), max($heights)];
        $positions = [];
        // The ends of the letters below and above, along the direction of the text.
        foreach ([false, true] as $isTop) {
            foreach ($flat as $v => [$x, $y]) {
                $own = $parameters->wrap ? $heights[$v] : 0.0;
                $end = $parameters->depth > 0.0 === $isTop ? $own + $parameters->depth : ($parameters->wrap ? $own + ($isTop ? $through : -$through) : ($isTop ? $most + $through : $least - $through));
                for ($k = 0; $k < 3; $k++) {
                    $positions[] = $point[$k] + $x * $right[$k] + $y * $up[$k] + $end * $normal[$k];
                }
            }
        }
        if (! $parameters->wrap && ($parameters->depth > 0.0 ? $parameters->depth <= $least : $parameters->depth >= $most)) {
            throw UnsuitableInput::because(sprintf('Letters that end %s %s would not meet the surface of %s, which bends away there. Let them follow the surface, or make them %s.', Format::mm(abs($parameters->depth)), $parameters->depth > 0.0 ? 'above the plane' : 'below it', $body->name, $parameters->depth > 0.0 ? 'higher' : 'deeper'));
        }
        $n = count($flat);
        $all = [];
        foreach (array_chunk($faces, 3) as [$a, $b, $c]) {
            array_push($all, $a, $c, $b, $n + $a, $n + $b, $n + $c);
        }
        foreach ($edges as [$a, $b]) {
            array_push($all, $a, $b, $n + $b, $a, $n + $b, $n + $a);
        }

        return TriangleMesh::fromFlat($positions, $all, [], array_fill(0, intdiv(count($all), 3), TriangleMesh::MADE));
    }

    /**
     * Which way the surface looks around a place: the mean of its faces there.
     *
     * @param  array{float, float, float}  $point
     * @return array{float, float, float}
     */
    private static function facing(TriangleMesh $mesh, array $point, int $nearest, float $radius): array
    {
        $p = $mesh->positions;
        $normal = fn (int $t): array => Vector3::cross(
            Vector3::minus([$p[3 * $mesh->faces[3 * $t + 1]], $p[3 * $mesh->faces[3 * $t + 1] + 1], $p[3 * $mesh->faces[3 * $t + 1] + 2]], [$p[3 * $mesh->faces[3 * $t]], $p[3 * $mesh->faces[3 * $t] + 1], $p[3 * $mesh->faces[3 * $t] + 2]]),
            Vector3::minus([$p[3 * $mesh->faces[3 * $t + 2]], $p[3 * $mesh->faces[3 * $t + 2] + 1], $p[3 * $mesh->faces[3 * $t + 2] + 2]], [$p[3 * $mesh->faces[3 * $t]], $p[3 * $mesh->faces[3 * $t] + 1], $p[3 * $mesh->faces[3 * $t] + 2]]),
        );
        $own = Vector3::unit($normal($nearest));
        $sum = Vector3::scaled($own, 1e-9);
        foreach (array_keys($mesh->faces) as $h) {
            $o = 3 * $mesh->faces[$h];
            if ($h % 3 === 0 && ($p[$o] - $point[0]) ** 2 + ($p[$o + 1] - $point[1]) ** 2 + ($p[$o + 2] - $point[2]) ** 2 < $radius * $radius) {
                $of = $normal(intdiv($h, 3));
                // Beyond an edge it is another surface.
                if (Vector3::dot($of, $own) > 0.8 * Vector3::length($of)) {
                    $sum = Vector3::plus($sum, $of);
                }
            }
        }

        return Vector3::unit($sum);
    }

    /**
     * @param  array{float, float, float}  $normal
     * @return array{array{float, float, float}, array{float, float, float}} to the right and up, as the text is read
     */
    private static function axes(EngraveParameters $parameters, array $normal): array
    {
        $up = isset($parameters->at['up']) ? Vector3::unit(Triples::of($parameters->at, 'up')) : (abs($normal[2]) < 0.9 ? [0.0, 0.0, 1.0] : [0.0, 1.0, 0.0]);
        $right = Vector3::cross($up, $normal);
        if (Vector3::length($right) < 1e-6) {
            throw UnsuitableInput::because('"up" points along the direction that the text is read from; name another.');
        }
        $right = Vector3::unit($right);
        $up = Vector3::cross($normal, $right);
        [$c, $s] = [cos(deg2rad($parameters->turned)), sin(deg2rad($parameters->turned))];

        return [Vector3::plus(Vector3::scaled($right, $c), Vector3::scaled($up, $s)), Vector3::minus(Vector3::scaled($up, $c), Vector3::scaled($right, $s))];
    }

    /**
     * @param  list<array{float, float}>  $loop
     * @return list<array{float, float}> with more points, so that none is farther from the next than a step
     */
    private static function stepped(array $loop, float $step): array
    {
        $out = [];
        foreach ($loop as $k => [$x, $y]) {
            [$u, $v] = $loop[($k + 1) % count($loop)];
            $parts = max(1, (int) ceil(hypot($u - $x, $v - $y) / $step));
            for ($i = 0; $i < $parts; $i++) {
                $out[] = [$x + ($u - $x) * $i / $parts, $y + ($v - $y) * $i / $parts];
            }
        }

        return $out;
    }

    /**
     * @param  list<list<array{float, float}>>  $letters
     * @return array{list<array{float, float}>, list<array{int, int}>, list<int>} corners, the edges around, and triangles against the clock
     */
    private static function area(array $letters): array
    {
        $flat = $edges = $positions = [];
        foreach ($letters as $loop) {
            $first = count($flat);
            foreach ($loop as $k => $at) {
                $flat[] = $at;
                array_push($positions, $at[0], $at[1], 0.0);
                $edges[] = [$first + $k, $first + ($k + 1) % count($loop)];
            }
        }
        $found = ConstrainedTriangulation::within($positions, $edges, [0.0, 0.0, 1.0]);
        if ($found['trouble'] !== null) {
            throw UnsuitableInput::because('The outlines of these letters cross; choose another font.');
        }

        return [$flat, $edges, $found['faces']];
    }

    /**
     * How high the surface is at each corner, over the plane of the text.
     *
     * @param  list<array{float, float}>  $flat
     * @param  array{float, float, float}  $point
     * @param  array{float, float, float}  $right
     * @param  array{float, float, float}  $up
     * @param  array{float, float, float}  $normal
     * @return list<float> mm
     */
    private static function heights(TriangleMesh $mesh, TriangleBvh $tree, array $flat, array $point, array $right, array $up, array $normal, EngraveParameters $parameters, string $name): array
    {
        $far = BoundingBox::of($mesh->positions)->diagonal();
        $down = Vector3::scaled($normal, -1.0);
        // Where the surface is looked for: from as high as the text is large, so that what stands over it far off is not met.
        $reach = min($far, max(array_map(fn (array $at) => hypot($at[0], $at[1]), $flat)) + $parameters->height);
        $rays = [];
        foreach ($flat as [$x, $y]) {
            $from = Vector3::plus(Vector3::plus($point, Vector3::scaled($normal, $reach)), Vector3::plus(Vector3::scaled($right, $x), Vector3::scaled($up, $y)));
            array_push($rays, ...$from, ...$down);
        }
        $face = $along = [];
        $tree->firstAlong($rays, $face, $along);
        $heights = [];
        foreach ($along as $v => $way) {
            [$x, $y] = $flat[$v];
            $t = $face[$v];
            if ($t >= 0) {
                [$a, $b, $c] = array_map(fn (int $k) => array_slice($mesh->positions, 3 * $mesh->faces[3 * $t + $k], 3), [0, 1, 2]);
                $of = Vector3::cross(Vector3::minus($b, $a), Vector3::minus($c, $a));
            }
            if ($t < 0 || $way > 2.0 * $reach || Vector3::dot($of, $normal) < self::STEEP * Vector3::length($of)) {
                $place = Vector3::plus($point, Vector3::plus(Vector3::scaled($right, $x), Vector3::scaled($up, $y)));
                throw UnsuitableInput::because(sprintf('The text reaches beyond its surface on %s near (%.2f, %.2f, %.2f). Make it smaller, move it, or turn it.', $name, ...$place));
            }
            $heights[] = $reach - $way;
        }

        return $heights;
    }

    /** @param  list<list<array{float, float}>>  $letters */
    private static function stroke(array $letters): float
    {
        $area = $length = 0.0;
        foreach ($letters as $loop) {
            foreach ($loop as $k => [$x, $y]) {
                [$u, $v] = $loop[($k + 1) % count($loop)];
                $area += 0.5 * ($x * $v - $y * $u);
                $length += hypot($u - $x, $v - $y);
            }
        }

        return 2.0 * $area / $length;
    }
}
