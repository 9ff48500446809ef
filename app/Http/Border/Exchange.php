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

    /** Answers JSON. */
    public static function answers(Shape $shape, int $status = 200): self
    {
        return new self($shape, $status, Shape::object([]), 'application/json');
    }

    /** Answers that it is done, without a word (204). */
    public static function nothing(): self
    {
        return new self(null, 204, Shape::object([]), '');
    }

    /** Answers bytes, or a file; what is sent to it may be bytes too. */
    public static function bytes(): self
    {
        return new self(null, 200, Shape::object([]), 'application/octet-stream');
    }

    /** Answers a page, or leads to one. */
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
