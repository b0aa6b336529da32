"""Where does a retimed clip stutter, and how slow may it go before it does?"""
