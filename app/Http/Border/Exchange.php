<?php

declare(strict_types=1);

namespace App\Http\Border;

/** What one address takes and answers. */
final readonly class Exchange
{
    /** @param  Shape|null  $answers  of JSON; null of bytes, files and pages, and where nothing is answered */
    private function __construct(public ?Shape $answers, public int $status, public Shape $takes, public string $type)
    {
    }

    public static function answers(Shape $shape, int $status = 200): self
    {
        return new self($shape, $status, Shape::object([]), 'application/json');
    }

    public static function nothing(): self
    {
        return new self(null, 204, Shape::object([]), '');
    }

    public static function bytes(): self
    {
        return new self(null, 200, Shape::object([]), 'application/octet-stream');
    }

    public static function page(): self
    {
        return new self(null, 200, Shape::object([]), 'text/html');
    }

    /** @param  array<string, Shape>  $fields */
    public function takes(array $fields): self
    {
        return new self($this->answers, $this->status, Shape::object($fields), $this->type);
    }
}
