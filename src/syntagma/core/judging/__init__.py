"""What people thought of results, and what that says of the choices behind them."""
