<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver;

use Emberstone\Core\Algorithms\Shapes\TurnedShape;
use Emberstone\Core\Algorithms\Surface\Sampling;
use Emberstone\Core\Datums\ShapeMap;
use Emberstone\Core\Foundation\InvalidParameter;
use Emberstone\Core\Foundation\UnsuitableInput;
use Emberstone\Core\Geometry\Vector3;
use Emberstone\Core\Mesh\TriangleMesh;
use Emberstone\Core\Operation\Artefact;
use Emberstone\Core\Operation\Body;

/** How far a body lies off the shapes that were found on it: how true its faces are. Free form, and what is turned about an axis, are not measured. */
final readonly class ShapeTruth
{
    /**
     * @param  array<int, TurnedShape|null>  $shapes  by label
     * @param  list<int>  $labels
     */
    private function __construct(private TriangleMesh $mesh, private array $shapes, private array $labels)
    {
    }

    /**
     * @param  list<Artefact>  $artefacts
     *
     * @throws InvalidParameter when no shapes were found on the body
     * @throws UnsuitableInput when it has changed since, or none of them can be measured from
     */
    public static function of(Body $body, TriangleMesh $mesh, array $artefacts): self
    {
        $own = array_values(array_filter($artefacts, fn (Artefact $one) => $one->kind === ShapeMap::KIND && $one->bodyId === $body->id));
        if ($own === []) {
            throw InvalidParameter::of('to', "is shapes, but none were found on $body->name yet: run find-shapes first");
        }
        $map = ShapeMap::ofArtefact($own[count($own) - 1]);
        if (count($map->labels) !== $mesh->faceCount()) {
            throw UnsuitableInput::because("$body->name has changed since its shapes were found: find them again.");
        }
        $shapes = array_map(ShapeMap::endless(...), $map->entries);
        if (array_filter($shapes) === []) {
            throw UnsuitableInput::because("$body->name is free form all over: there is no shape to measure from.");
        }

        return new self($mesh, $shapes, $map->labels);
    }

    /**
     * @param  int  $samples  places spread over the body
     * @return array{non-empty-list<float>, list<float>, list<float|null>} distances, where they were measured, and for each vertex that of the nearest shape around it; null amid free form
     *
     * @throws UnsuitableInput when all of the body is free form
     */
    public function distances(int $samples, bool $signed): array
    {
        ['points' => $points, 'normals' => $normals, 'faces' => $faces] = Sampling::evenly($this->mesh->positions, $this->mesh->faces, $samples);
        $distances = $places = [];
        foreach ($faces as $k => $t) {
            $at = [$points[3 * $k], $points[3 * $k + 1], $points[3 * $k + 2]];
            $distance = $this->distance($t, $at, [$normals[3 * $k], $normals[3 * $k + 1], $normals[3 * $k + 2]]);
            if ($distance !== null) {
                $distances[] = $signed ? $distance : abs($distance);
                array_push($places, ...$at);
            }
        }
        $values = array_fill(0, $this->mesh->vertexCount(), null);
        [$p, $f] = [$this->mesh->positions, $this->mesh->faces];
        for ($t = 0, $n = $this->mesh->faceCount(); $t < $n; $t++) {
            [$a, $b, $c] = array_map(fn (int $v) => [$p[3 * $v], $p[3 * $v + 1], $p[3 * $v + 2]], array_slice($f, 3 * $t, 3));
            $normal = Vector3::cross(Vector3::minus($b, $a), Vector3::minus($c, $a));
            foreach ([$a, $b, $c] as $k => $at) {
                $distance = $this->distance($t, $at, $normal);
                $v = $f[3 * $t + $k];
                if ($distance !== null && ($values[$v] === null || abs($distance) < abs($values[$v]))) {
                    $values[$v] = $signed ? $distance : abs($distance);
                }
            }
        }

        return $distances !== [] ? [$distances, $places, $values] : throw UnsuitableInput::because('What is no free form has no area to speak of.');
    }

    /**
     * More than 0 where the body lies outside of its shape.
     *
     * @param  array{float, float, float}  $at
     * @param  array{float, float, float}  $normal  of the face, of any length
     */
    private function distance(int $t, array $at, array $normal): ?float
    {
        $shape = $this->shapes[$this->labels[$t]];
        if ($shape === null) {
            return null;
        }
        $distance = $shape->distances($at)[0];

        return Vector3::dot($shape->normal(...$at), $normal) < 0.0 ? -$distance : $distance;
    }
}
