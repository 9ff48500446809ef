<?php

declare(strict_types=1);

namespace Emberstone\Core\Deliver\Handover;

use Emberstone\Core\Foundation\Format;

/**
 * What was handed over, as one page to read or to print: an HTML document that needs nothing from outside, of tables and pictures alone, so that ReportPdf can set it too.
 *
 * Whoever gets the part finds here how it looks, whether it is what was asked for, what of it was measured and what made up, what was measured on it, how it came about, and the sums of the files.
 */
final class ReportPage
{
    /** States of the ready card, as signs and words: neither colour nor sign says it alone. */
    private const STATES = ['good' => ['✓', 'kept', '#3f7d4e'], 'warn' => ['!', 'open', '#a8741a'], 'bad' => ['✕', 'not kept', '#b3402e']];

    private const VERDICTS = ['in' => ['✓', 'in tolerance', '#3f7d4e'], 'unsure' => ['!', 'too near the limit to tell', '#a8741a'], 'out' => ['✕', 'out of tolerance', '#b3402e']];

    /** Before a heading; a border of it would be cut by some programs that show PDF. */
    private const RULE = '<div class="rule"></div>';

    private readonly float $mm;

    private readonly string $unit;

    private function __construct(private readonly HandedOver $delivery, private readonly HandoverContext $context)
    {
        $this->mm = $delivery->brief()->unit->inMillimetres();
        $this->unit = $delivery->brief()->unit->value;
    }

    /** @return string a whole HTML document, UTF-8; the same delivery and context give the same bytes */
    public static function html(HandedOver $delivery, HandoverContext $context): string
    {
        return (new self($delivery, $context))->page();
    }

    private function page(): string
    {
        $title = self::text($this->delivery->title());
        $body = implode("\n", [
            $this->head(), ...array_map($this->part(...), $this->delivery->parts()), $this->measurements(), $this->comparisons(), $this->sections(), $this->ledger(), $this->files(),
            '<p class="small foot">Hatched on the pictures is surface that no scan shows: filled or bridged (teal), reshaped or made by a change of shape (violet). '
            .'Lengths without another unit are in '.self::text($this->unit).'. Made with Emberstone '.self::text($this->context->version).'.</p>',
        ]);

        return "<!doctype html>\n<html lang=\"en\"><head><meta charset=\"utf-8\"><title>$title</title><style>".self::STYLE."</style></head><body>\n$body\n</body></html>\n";
    }

    private const STYLE = '@page { size: A4; margin: 16mm 15mm 16mm 15mm; }
body { font-family: "DejaVu Sans", sans-serif; font-size: 9pt; line-height: 1.45; color: #2b2622; background: #ffffff; max-width: 180mm; margin: 0 auto; }
h1 { font-size: 20pt; line-height: 1.15; margin: 2pt 0 4pt 0; font-weight: bold; }
h2 { font-size: 12.5pt; margin: 6pt 0 5pt 0; page-break-after: avoid; }
.rule { height: 1.5pt; background: #c8502b; margin-top: 15pt; page-break-after: avoid; }
h3 { font-size: 9pt; margin: 9pt 0 3pt 0; color: #6a5f56; font-weight: bold; page-break-after: avoid; }
p { margin: 0 0 4pt 0; }
table { border-collapse: collapse; width: 100%; }
td, th { text-align: left; vertical-align: top; padding: 2.5pt 6pt 2.5pt 0; border-bottom: 0.5pt solid #ddd5cb; }
th { font-weight: bold; color: #6a5f56; font-size: 8pt; }
td.n, th.n { text-align: right; padding-right: 10pt; }
table.plain td { border: none; padding: 0 8pt 0 0; }
.small { font-size: 7.5pt; color: #6a5f56; }
.mono { font-family: "DejaVu Sans Mono", monospace; font-size: 6.5pt; color: #4c443d; word-wrap: break-word; }
.brand { font-size: 8pt; letter-spacing: 1.2pt; color: #c8502b; font-weight: bold; }
.bar { height: 9pt; background: #b9ac99; } .bar div { height: 9pt; background: #3fb8a6; float: right; }
.foot { margin-top: 14pt; padding-top: 5pt; border-top: 0.5pt solid #ddd5cb; }
ol { margin: 0; padding-left: 16pt; } li { margin-bottom: 2pt; }
tr, .keep { page-break-inside: avoid; }';

    private function head(): string
    {
        $context = $this->context;
        $receiver = $this->delivery->receiver();
        $line = 'Handed over on '.$context->at->format('j F Y').($context->by === null ? '' : ' by '.self::text($context->by)).($receiver === '' ? '' : ' for '.self::text($receiver)).'.';
        $scale = $this->delivery->scale() === null ? 'The scale has not been confirmed by anybody.' : 'The scale was confirmed by '.self::text($this->delivery->scale()['by']).'.';
        $brief = $this->delivery->brief();
        $asked = sprintf('Asked for: %s faces at most, raw points within %s, %s, %s %% measured at least; files in %s with %s up.', Format::count($brief->faceBudget), $this->length($brief->toleranceMm), $brief->closed ? 'closed' : 'closed or open', Format::plain(100 * $brief->leastMeasured, 1), self::text($this->unit), self::text(strtoupper($brief->up)));

        return '<p class="brand">EMBERSTONE · SCAN REPORT</p><h1>'.self::text($this->delivery->title())."</h1><p>$line $scale</p><p class=\"small\">$asked</p>";
    }

    /** @param  array<string, mixed>  $part */
    private function part(array $part): string
    {
        [$x, $y, $z] = array_map($this->plain(...), $part['size']);
        $facts = [['Size', "$x × $y × $z ".self::text($this->unit)]];
        if (($part['material'] ?? '') !== '') {
            $facts[] = ['Material', self::text($part['material'])];
        }
        $facts[] = $part['faces'] === null ? ['Points', number_format($part['points'])] : ['Faces', number_format($part['faces'])];
        $figures = $part['figures'];
        if ($figures !== null) {
            $facts[] = ['Surface', $this->plain($figures['area'], 2).' '.self::text($this->unit).'²'];
            $facts[] = ['Volume', $part['volume'] === null ? 'none: it is not closed' : $this->plain($part['volume'], 3).' '.self::text($this->unit).'³'];
            $facts[] = ['Measured', Format::plain(100 * $figures['measured'], 1).' % of the surface'];
        }
        $rows = implode('', array_map(fn (array $fact) => "<tr><td class=\"small\">$fact[0]</td><td>$fact[1]</td></tr>", $facts));
        $ready = $figures === null ? '' : '<h3>Ready card</h3><table>'.implode('', array_map(function (array $line): string {
            [$sign, $word, $colour] = self::STATES[$line['state']];

            return '<tr><td style="color:'.$colour.'">'.$sign.'</td><td>'.self::text($line['label'])."</td><td>$word</td><td class=\"n\">".self::text($line['figure']).'</td></tr>';
        }, $this->delivery->ready($part, $this->context->isOriented))).'</table>';
        /** @var list<array{title: string, png: string}> $pictures */
        $pictures = $part['pictures'];
        $first = $pictures === [] ? '' : self::picture($pictures[0], '92mm');
        $others = $pictures === [] ? '' : '<table class="plain" style="margin-top:6pt"><tr>'.implode('', array_map(fn (array $one) => '<td>'.self::picture($one, '56mm').'</td>', array_slice($pictures, 1))).'</tr></table>';

        $name = count($this->delivery->parts()) === 1 && $part['name'] === $this->delivery->title() ? 'The part' : (string) $part['name'];

        return self::RULE.'<h2>'.self::text($name)."</h2><table class=\"plain\"><tr><td style=\"width:94mm\">$first</td><td><table>$rows</table>$ready</td></tr></table>$others".($figures === null ? '' : self::evidence($figures)).(isset($part['deviation']) ? '<div class="keep" style="margin-top:8pt">'.self::picture($part['deviation'], '92mm').'</div>' : '');
    }

    /** @param  array{title: string, png: string}  $picture */
    private static function picture(array $picture, string $width): string
    {
        return "<img src=\"data:image/png;base64,{$picture['png']}\" style=\"width:$width\" alt=\"".self::text($picture['title']).'"><br><span class="small">'.self::text($picture['title']).'</span>';
    }

    /** @param  array<string, mixed>  $figures */
    private static function evidence(array $figures): string
    {
        $share = fn (float $of): string => Format::plain(100 * $of, $of > 0.0 && $of < 0.001 ? 3 : 1).' %';
        $words = ['measured '.$share($figures['measured'])];
        foreach ($figures['madeUp'] ?? [] as $how => $of) {
            $of > 0.0 && $words[] = self::text($how).' '.$share($of);
        }
        $made = Format::plain(100 * max(0.0, 1.0 - $figures['measured']), 2);

        return "<h3>Evidence</h3><div class=\"bar\"><div style=\"width:$made%\"></div></div><p class=\"small\">".implode(' · ', $words).' (shares of the surface)</p>';
    }

    private function measurements(): string
    {
        $rows = '';
        foreach ($this->context->measurements as $one) {
            [$sign, $word, $colour] = self::VERDICTS[$one['verdict'] ?? ''] ?? ['', 'no tolerance', '#6a5f56'];
            $unit = $one['unit'] === 'deg' ? '°' : ' '.str_replace(['2', '3'], ['²', '³'], (string) $one['unit']);
            $asked = $one['nominal'] === null ? '–' : Format::plain($one['nominal'], 3).($one['plus'] === null ? '' : ' +'.Format::plain($one['plus'], 3)).($one['minus'] === null ? '' : ' −'.Format::plain($one['minus'], 3)).self::text($unit);
            $rows .= '<tr><td>'.self::text((string) $one['name']).'</td><td>'.self::text((string) $one['kind']).'</td><td class="n">'.self::text((string) $one['words'])."</td><td class=\"n\">$asked</td><td style=\"color:$colour\">$sign $word</td></tr>";
        }

        return $rows === '' ? '' : '<div class="keep">'.self::RULE."<h2>Measurements</h2><table><tr><th>Name</th><th>Kind</th><th class=\"n\">Value</th><th class=\"n\">Nominal and tolerance</th><th>Verdict</th></tr>$rows</table><p class=\"small\">± holds the true value in 95 of 100 cases (k = 2), as far as the fits tell; a value without it has none that could be told.</p></div>";
    }

    private function comparisons(): string
    {
        $rows = '';
        foreach ($this->context->comparisons as $one) {
            $within = $one['tolerance'] === null ? '–' : Format::plain(100 * $one['within'], 1).' % within '.$this->length($one['tolerance']);
            $rows .= '<tr><td>'.self::text((string) $one['body']).' to '.self::text((string) $one['to']).'</td><td class="n">'.$this->length($one['rms'], 3).'</td><td class="n">'.$this->length($one['p95'], 3).'</td><td class="n">'.$this->length($one['max'], 3)."</td><td class=\"n\">$within</td></tr>".$this->histogram($one['histogram'], $one['tolerance']);
        }

        return $rows === '' ? '' : '<div class="keep">'.self::RULE."<h2>Comparisons</h2><table><tr><th>What</th><th class=\"n\">Root mean square</th><th class=\"n\">95 % within</th><th class=\"n\">Most</th><th class=\"n\">Tolerance</th></tr>$rows</table></div>";
    }

    /**
     * How many places lie how far off, as bars: dark within the tolerance, light with a rim beyond it.
     *
     * @param  array{from: float, to: float, counts: list<int>}  $histogram
     */
    private function histogram(array $histogram, ?float $tolerance): string
    {
        $many = count($histogram['counts']);
        $most = max(1, ...$histogram['counts']);
        $bars = '';
        foreach ($histogram['counts'] as $k => $count) {
            $high = round(60.0 * $count / $most, 2);
            $middle = $histogram['from'] + ($histogram['to'] - $histogram['from']) * ($k + 0.5) / $many;
            $style = $tolerance === null || abs($middle) <= $tolerance ? 'fill="#8a7d6d"' : 'fill="#f3ece3" stroke="#a8741a" stroke-width="0.8"';
            $bars .= $count === 0 ? '' : sprintf('<rect x="%.2f" y="%.2f" width="%.2f" height="%.2f" %s/>', 480.0 * $k / $many + 0.6, 62.0 - $high, 480.0 / $many - 1.2, $high, $style);
        }
        $svg = "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"480\" height=\"64\" viewBox=\"0 0 480 64\">$bars<rect x=\"0\" y=\"62\" width=\"480\" height=\"0.8\" fill=\"#2b2622\"/></svg>";

        return '<tr><td colspan="5"><img style="width:120mm" alt="How many places lie how far off" src="data:image/svg+xml;base64,'.base64_encode($svg).'"><br><span class="small">Places from '.$this->length($histogram['from'], 3).' (and less) to '.$this->length($histogram['to'], 3).' (and more)'.($tolerance === null ? '' : '; rimmed bars lie beyond the tolerance').'.</span></td></tr>';
    }

    private function sections(): string
    {
        $rows = '';
        foreach ($this->delivery->curves() as $one) {
            $rows .= '<tr><td style="width:64mm"><img style="width:60mm" alt="" src="data:image/svg+xml;base64,'.base64_encode(self::unitless($one['svg'])).'"></td><td>'.self::text($one['name']).'</td><td class="n">'.Format::many($one['curves'], 'curve').'</td><td class="n">'.$this->length($one['length']).'</td><td class="n">'.$this->plain($one['area'], 2).' '.self::text($this->unit).'²</td></tr>';
        }

        return $rows === '' ? '' : '<div class="keep">'.self::RULE."<h2>Sections and outlines</h2><table><tr><th></th><th>Name</th><th class=\"n\">Curves</th><th class=\"n\">Length</th><th class=\"n\">Area</th></tr>$rows</table></div>";
    }

    private function ledger(): string
    {
        $items = implode('', array_map(fn (array $step) => '<li><b>'.self::text($step['label']).'</b>'.($step['what'] === '' ? '' : ': '.self::text($step['what'])).($step['notes'] === [] ? '' : ' <span class="small">'.self::text(implode(' ', $step['notes'])).'</span>').'</li>', $this->context->steps));

        return $items === '' ? '' : self::RULE."<h2>How it was made</h2><ol>$items</ol>";
    }

    private function files(): string
    {
        $rows = implode('', array_map(fn (array $file) => '<tr><td>'.self::text($file['name']).'</td><td class="n">'.number_format($file['size']).'</td><td class="mono">'.$file['sha256'].'</td></tr>', $this->delivery->files()));

        return $rows === '' ? '' : '<div class="keep">'.self::RULE."<h2>Files</h2><table><tr><th>Name</th><th class=\"n\">Bytes</th><th>SHA-256</th></tr>$rows</table></div>";
    }

    /** A length with its unit, from mm. */
    private function length(float $mm, int $decimals = 2): string
    {
        return Format::plain($mm / $this->mm, $this->mm >= 10.0 ? $decimals + 2 : $decimals).' '.self::text($this->unit);
    }

    /** A figure of a power of a length, from mm. */
    private function plain(float $mm, int $power = 1): string
    {
        $value = $mm / $this->mm ** $power;

        return number_format($value, abs($value) < 10.0 ? 3 : (abs($value) < 10_000.0 ? 1 : 0));
    }

    /** A drawing that takes the width it is given, in place of its true size. */
    private static function unitless(string $svg): string
    {
        return (string) preg_replace('/(<svg[^>]*) width="[\d.]+mm" height="[\d.]+mm"([^>]*viewBox="\S+ \S+ (\S+) (\S+)")/', '$1 width="$3" height="$4"$2', $svg, 1);
    }

    private static function text(string $text): string
    {
        return htmlspecialchars($text, ENT_QUOTES | ENT_SUBSTITUTE, 'UTF-8');
    }
}
