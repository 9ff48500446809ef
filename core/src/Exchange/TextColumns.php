<?php

declare(strict_types=1);

namespace Emberstone\Core\Exchange;

use Emberstone\Core\Foundation\InvalidParameter;

/** What the columns of a text file mean. */
final readonly class TextColumns
{
    public const ROLES = ['x', 'y', 'z', 'nx', 'ny', 'nz', 'red', 'green', 'blue', 'confidence', 'skip'];

    /** @param  list<string>  $roles  one of ROLES a column; x, y and z once each */
    private function __construct(public array $roles)
    {
    }

    /**
     * @param  array<mixed>  $roles
     *
     * @throws InvalidParameter
     */
    public static function of(array $roles): self
    {
        $roles = array_values($roles);
        foreach ($roles as $k => $role) {
            if (! in_array($role, self::ROLES, true)) {
                throw InvalidParameter::of('columns', 'names '.json_encode($role).' for column '.($k + 1).'; a column is one of '.implode(', ', self::ROLES));
            }
        }
        foreach (array_count_values($roles) as $role => $times) {
            if ($role !== 'skip' && $times > 1) {
                throw InvalidParameter::of('columns', "names $role $times times; each may be there once");
            }
        }
        foreach (['x', 'y', 'z'] as $role) {
            if (! in_array($role, $roles, true)) {
                throw InvalidParameter::of('columns', "has no $role; a point needs x, y and z");
            }
        }

        return new self($roles);
    }

    /**
     * X, Y and Z first; then three whole numbers 0 to 255 are a colour, three numbers of length 1 a normal, all else is passed over.
     *
     * @param  non-empty-list<array<int, string>>  $rows
     * @param  int  $first  column that may be something else than a place
     */
    public static function guess(array $rows, int $first = 3): self
    {
        $columns = max(3, min(array_map(count(...), $rows)));
        $roles = ['x', 'y', 'z', ...array_fill(0, $columns - 3, 'skip')];
        for ($k = $first; $k + 3 <= $columns; $k++) {
            $isColour = $isNormal = true;
            foreach ($rows as $row) {
                [$a, $b, $c] = [$row[$k], $row[$k + 1], $row[$k + 2]];
                $isColour = $isColour && ctype_digit($a.$b.$c) && max((int) $a, (int) $b, (int) $c) <= 255;
                $isNormal = $isNormal && is_numeric($a) && is_numeric($b) && is_numeric($c) && abs((float) $a ** 2 + (float) $b ** 2 + (float) $c ** 2 - 1.0) < 0.02;
            }
            $names = $isNormal ? ['nx', 'ny', 'nz'] : ($isColour ? ['red', 'green', 'blue'] : null);
            if ($names !== null && ! in_array($names[0], $roles, true)) {
                array_splice($roles, $k, 3, $names);
                $k += 2;
            }
        }

        return new self($roles);
    }

    /**
     * The columns of three roles that belong together; null unless all are there.
     *
     * @return array{int, int, int}|null
     */
    public function three(string $a, string $b, string $c): ?array
    {
        [$i, $j, $k] = [$this->at($a), $this->at($b), $this->at($c)];

        return $i < 0 || $j < 0 || $k < 0 ? null : [$i, $j, $k];
    }

    /** The column of a role, -1 for none. */
    public function at(string $role): int
    {
        $at = array_search($role, $this->roles, true);

        return $at === false ? -1 : $at;
    }
}
