<?php

declare(strict_types=1);

namespace Emberstone\Core\Algorithms\HalfEdge;

/**
 * Which of many things hang together, told two at a time.
 *
 * Source    disjoint sets with paths halved (Tarjan & van Leeuwen 1984).
 *
 * @internal
 */
final class DisjointSets
{
    /** @var array<int, int> one that each hangs together with, or itself */
    private array $with;

    /** @param  list<int>  $things  by number, each by itself at first */
    public function __construct(array $things)
    {
        $this->with = array_combine($things, $things);
    }

    public function has(int $thing): bool
    {
        return isset($this->with[$thing]);
    }

    public function join(int $a, int $b): void
    {
        $this->with[$this->of($b)] = $this->of($a);
    }

    /** The one that stands for all that hang together with a thing. */
    public function of(int $thing): int
    {
        while ($this->with[$thing] !== $thing) {
            $thing = $this->with[$thing] = $this->with[$this->with[$thing]];
        }

        return $thing;
    }
}
