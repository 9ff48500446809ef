<?php

declare(strict_types=1);

namespace Emberstone\Core\Register;

use Emberstone\Core\Algorithms\Icp\CorrespondenceCache;
use Emberstone\Core\Algorithms\Icp\IcpEquations;

/**
 * The equations of passes two at a time, as they stand (IcpEquations), with the partners of their samples remembered from one time to the next.
 *
 * @internal
 *
 * @phpstan-type Equations array{a: list<float>, b: list<float>, pairs: int, near: int, weight: float, squares: float, scale: float, tilt: float}
 */
final class PairEquations
{
    /** Samples in all whose partners are remembered, some 80 bytes each; further pairs are searched anew in every round. */
    public const REMEMBERED = 3_000_000;

    /** @var array<string, array{every: int, samples: int, partners: CorrespondenceCache}> by pair of passes */
    private array $remembered = [];

    /** Samples whose partners are remembered. */
    private int $held = 0;

    /** @var array<int, array{every: int, points: array<int, float>, normals: array<int, float>, quality: array<int, float>}> by pass: some of its samples */
    private array $thinned = [];

    /** @param  list<PreparedPass>  $passes */
    public function __construct(private readonly array $passes)
    {
    }

    /**
     * @param  float  $reach  how far from a sample its partner may be, mm
     * @param  int  $every  samples are taken by steps of this: 1 for all
     * @param  float  $leastScale  spread of distances that the cut begins with at least, mm
     * @return Equations
     */
    public function of(int $moving, int $still, float $reach, int $every, float $leastScale, bool $remember = true): array
    {
        [$a, $b] = [$this->passes[$moving], $this->passes[$still]];
        ['points' => $p, 'normals' => $n, 'quality' => $q] = $this->samples($moving, $every);
        $partners = $remember ? $this->partners($moving, $still, $every, count($q)) : new CorrespondenceCache($b->tree);
        $pair = IcpEquations::pair($p, $n, $q, $a->transform->matrix, $partners, $b->treeNormals, $b->transform->matrix, $b->transform->inverse()->matrix, $reach, max($leastScale, 0.02 * $b->spacing));
        // Both ends are noisy: their variances add up.
        $trust = 2.0 / (1.0 / $a->trust + 1.0 / $b->trust);
        foreach (['a', 'b'] as $part) {
            $pair[$part] = array_map(fn (float $v) => $trust * $v, $pair[$part]);
        }

        return ['weight' => $trust * $pair['weight'], 'squares' => $trust * $pair['squares']] + $pair;
    }

    /**
     * A little resistance to every motion (Levenberg 1944): shapes that can slide on each other are not sent far along.
     *
     * @param  array<int, float>  $a  upper triangle
     * @param  float  $share  of the mean resistance of the surface
     * @return list<float>
     */
    public static function damped(array $a, float $weight, float $share): array
    {
        $turn = $a[0] + $a[IcpEquations::upper(1, 1)] + $a[IcpEquations::upper(2, 2)];
        for ($k = 0; $k < 6; $k++) {
            $a[IcpEquations::upper($k, $k)] += $share * ($k < 3 ? $turn / 3.0 : $weight / 3.0);
        }

        return $a;
    }

    /** @return array{every: int, points: array<int, float>, normals: array<int, float>, quality: array<int, float>} */
    private function samples(int $pass, int $every): array
    {
        if (($this->thinned[$pass]['every'] ?? 0) === $every) {
            return $this->thinned[$pass];
        }
        $of = $this->passes[$pass];
        $p = $n = $q = [];
        for ($i = 0, $m = $every > 1 ? $of->sampleCount() : 0; $i < $m; $i += $every) {
            for ($o = 3 * $i; $o < 3 * $i + 3; $o++) {
                $p[] = $of->samples[$o];
                $n[] = $of->sampleNormals[$o];
            }
            $q[] = $of->quality[$i];
        }

        return $this->thinned[$pass] = $every > 1 ? ['every' => $every, 'points' => $p, 'normals' => $n, 'quality' => $q] : ['every' => 1, 'points' => $of->samples, 'normals' => $of->sampleNormals, 'quality' => $of->quality];
    }

    private function partners(int $moving, int $still, int $every, int $samples): CorrespondenceCache
    {
        $pair = "$moving-$still";
        $known = $this->remembered[$pair] ?? null;
        if ($known !== null && $known['every'] === $every) {
            return $known['partners'];
        }
        unset($this->remembered[$pair]);
        $this->held -= $known['samples'] ?? 0;
        $partners = new CorrespondenceCache($this->passes[$still]->tree);
        if ($this->held + $samples <= self::REMEMBERED) {
            $this->remembered[$pair] = ['every' => $every, 'samples' => $samples, 'partners' => $partners];
            $this->held += $samples;
        }

        return $partners;
    }
}
