<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Deliver\Brief;
use Emberstone\Core\Deliver\ReadyCard;
use Emberstone\Core\Operation\Artefact;

/**
 * An artefact of kind `delivery`: what was handed over, as it was then.
 *
 * It holds for whom (`for`), the title of the project and who had confirmed its scale, the brief, the parts with what a report says of them (`parts`: name, id of the body and its material (none in older ones), size in mm, points, faces, figures of the ready card, volume in mm3, pictures as PNG in base64, and `deviation`, one of how far the raw points lie off), the curves of
 * sections, and the files with size and SHA-256, their bytes in base64. Who handed it over, when, and by which steps it came about is known to the ledger alone (HandoverContext).
 *
 * @phpstan-type File array{name: string, size: int, sha256: string, bytes: string}
 */
final class HandedOver
{
    public const KIND = 'delivery';

    private function __construct(private readonly Artefact $artefact)
    {
    }

    /** @param  Artefact  $artefact  of kind `delivery`, with its data */
    public static function of(Artefact $artefact): self
    {
        return new self($artefact);
    }

    /** What it is called in the tray. */
    public function name(): string
    {
        return $this->artefact->name;
    }

    /** Who gets it; empty where nobody was named. */
    public function receiver(): string
    {
        return (string) ($this->artefact->data['for'] ?? '');
    }

    /** The name of the project; of the parts where there was none. */
    public function title(): string
    {
        return (string) ($this->artefact->data['title'] ?? implode(', ', array_column($this->parts(), 'name')));
    }

    /** @return array{by: string, at: string}|null who had confirmed the scale */
    public function scale(): ?array
    {
        return $this->artefact->data['scale'] ?? null;
    }

    /** Whether one zip of all was asked for. */
    public function isPackage(): bool
    {
        return (bool) ($this->artefact->data['package'] ?? false);
    }

    /** What was asked for when it was handed over. */
    public function brief(): Brief
    {
        return Brief::fromArray($this->artefact->data['brief'] ?? []);
    }

    /** @return list<array<string, mixed>> */
    public function parts(): array
    {
        return $this->artefact->data['parts'] ?? [];
    }

    /** @return list<array{name: string, curves: int, length: float, area: float, svg: string}> */
    public function curves(): array
    {
        return $this->artefact->data['curves'] ?? [];
    }

    /** @return list<File> */
    public function files(): array
    {
        return $this->artefact->data['files'] ?? [];
    }

    /**
     * @param  array<string, mixed>  $part  of parts()
     * @return list<array{key: string, label: string, state: string, figure: string, fix: string|null}>
     */
    public function ready(array $part, bool $isOriented): array
    {
        return ReadyCard::lines($this->brief(), $part['figures'], $this->scale(), $isOriented);
    }
}
