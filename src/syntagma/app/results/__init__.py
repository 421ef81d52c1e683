"""Results: kept, looked at, judged, and what the judgements say of the choices behind them."""
