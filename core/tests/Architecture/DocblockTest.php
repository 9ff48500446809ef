<?php

declare(strict_types=1);

namespace Emberstone\Core\Tests\Architecture;

use PHPUnit\Framework\Attributes\Test;
use PHPUnit\Framework\TestCase;

/** Every public type says what it is, and every public method whose signature does not say all says the rest: shapes, units, errors, source. */
final class DocblockTest extends TestCase
{
    /** A method of as many lines or fewer is read as fast as a docblock of it. */
    private const SHORT_LINES = 6;

    #[Test]
    public function every_type_says_what_it_is(): void
    {
        $bare = [];
        foreach (self::types() as $type) {
            if (self::words((string) $type->getDocComment()) < 3) {
                $bare[] = $type->getName();
            }
        }

        self::assertSame([], $bare);
    }

    #[Test]
    public function every_public_method_that_is_not_short_or_told_elsewhere_has_a_docblock(): void
    {
        $bare = [];
        $seen = 0;
        foreach (self::types() as $type) {
            foreach ($type->getMethods(\ReflectionMethod::IS_PUBLIC) as $method) {
                $seen++;
                $isOwn = $method->getDeclaringClass()->getName() === $type->getName() && $method->getFileName() === $type->getFileName();
                if ($isOwn && $method->getDocComment() === false && ! $method->hasPrototype() && ! $method->isConstructor() && self::lines($method) > self::SHORT_LINES) {
                    $bare[] = $type->getName().'::'.$method->getName();
                }
            }
        }

        self::assertGreaterThan(1000, $seen);
        self::assertSame([], $bare);
    }

    #[Test]
    public function what_a_method_throws_is_in_its_docblock(): void
    {
        $untold = [];
        foreach (self::types() as $type) {
            foreach ($type->getMethods(\ReflectionMethod::IS_PUBLIC) as $method) {
                if ($method->getFileName() !== $type->getFileName() || $method->hasPrototype() || $method->getName() === '__construct') {
                    continue;
                }
                // What a method catches itself does not reach its caller.
                $text = self::text($method);
                $throws = ! str_contains($text, 'catch (') && preg_match_all('/throw (?:new )?([A-Z]\w+)/', $text, $found) > 0 ? array_unique($found[1]) : [];
                foreach ($throws as $error) {
                    if ($error !== 'LogicException' && ! preg_match("/@throws[^\\n]*\\b$error\\b/", (string) $method->getDocComment())) {
                        $untold[] = $type->getName().'::'.$method->getName()." throws $error";
                    }
                }
            }
        }

        self::assertSame([], $untold);
    }

    private static function words(string $comment): int
    {
        return str_word_count((string) preg_replace('/@\w+.*/', '', $comment));
    }

    private static function lines(\ReflectionMethod $method): int
    {
        return (int) $method->getEndLine() - (int) $method->getStartLine() - 2;
    }

    private static function text(\ReflectionMethod $method): string
    {
        $start = (int) $method->getStartLine() - 1;

        return implode('', array_slice((array) file((string) $method->getFileName()), $start, (int) $method->getEndLine() - $start));
    }

    /** @return \Generator<int, \ReflectionClass<object>> each class, interface, trait and enumeration of the core */
    private static function types(): \Generator
    {
        $root = dirname(__DIR__, 2).'/src';
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($root, \FilesystemIterator::SKIP_DOTS)) as $file) {
            if ($file->getExtension() === 'php') {
                /** @var class-string $name */
                $name = 'Emberstone\\Core\\'.strtr(substr($file->getPathname(), strlen($root) + 1, -4), '/', '\\');
                yield new \ReflectionClass($name);
            }
        }
    }
}
