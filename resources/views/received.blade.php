<!doctype html>
<html lang="en" data-theme="kiln">
<head>
  <meta charset="utf-8">
  <meta name="viewport" content="width=device-width, initial-scale=1">
  <meta name="robots" content="noindex, nofollow">
  <meta name="referrer" content="no-referrer">
  <title>Emberstone</title>
  <link rel="icon" href="/icon.svg" type="image/svg+xml">
  @viteReactRefresh
  @vite(['resources/css/app.css', 'resources/js/main.tsx'])
</head>
<body class="bg-base-100 text-base-content">
  <div id="root"></div>
</body>
</html>
