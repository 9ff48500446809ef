<?php

declare(strict_types=1);

namespace Emberstone\Core\Foundation;

use Closure;

/** A progress of which a kernel knows only a function that takes the share done. */
final readonly class Breath implements Progress
{
    /** @param  Closure(float): void  $breathe */
    private function __construct(private Closure $breathe)
    {
    }

    /** @param  callable(float): void  $breathe  told the share done; may throw to stop */
    public static function of(callable $breathe): self
    {
        return new self(Closure::fromCallable($breathe));
    }

    /** Hands the share done to the function; the name of the stage is lost. */
    public function advance(string $stage, float $done): void
    {
        ($this->breathe)($done);
    }
}
