<!doctype html>
<html lang="en" data-theme="kiln">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  @if ($isReceived ?? false)
    {{-- Whoever has the link has no session; nobody else shall find it. --}}
    <meta name="robots" content="noindex, nofollow">
    <meta name="referrer" content="no-referrer">
  @else
    <meta name="csrf-token" content="{{ csrf_token() }}">
    <meta name="user-name" content="{{ auth()->user()->name }}">
  @endif
  <title>Emberstone</title>
  <link rel="icon" href="/icon.svg" type="image/svg+xml">
  @viteReactRefresh
  @vite(['resources/css/app.css', 'resources/js/main.tsx'])
</head>
<body class="bg-base-100 text-base-content">
  <div id="root"></div>
</body>
</html>
